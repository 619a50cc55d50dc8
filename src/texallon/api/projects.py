"""Projects: listing, making, naming, copying, putting away and deleting them."""

from dataclasses import asdict

from flask import Response, jsonify
from flask_openapi3 import APIBlueprint, Tag

from texallon.api.people import who
from texallon.api.problems import ProblemBody, problem
from texallon.api.project_shapes import (
    Made,
    NewProject,
    NewShot,
    ProjectChange,
    ProjectList,
    ProjectName,
    ProjectPath,
)
from texallon.load_demo import PROJECT, begin_demo_again, load_demo
from texallon.starter.begin import begin_shot
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore

FIRST_SHOT = "SH010"


def made(number: int, shot: int | None) -> Response:
    """What answers for something new."""
    response = jsonify({"id": number, "shot": shot})
    response.status_code = 201
    return response


def make_projects(store: ShotStore, files: FileStore) -> APIBlueprint:
    """The routes under `/api/projects`."""
    routes = APIBlueprint("projects", __name__, url_prefix="/api/projects", abp_tags=[Tag(name="projects")])

    def first_shot(project_id: int) -> int | None:
        listed = store.list_shots(project_id)
        return listed[0].id if listed else None

    @routes.get("", responses={"200": ProjectList}, operation_id="list_projects")
    def list_projects() -> Response:
        """All projects, those that are put away among them."""
        return jsonify({"projects": [{**asdict(each), "demo": each.name == PROJECT} for each in store.list_projects()]})

    @routes.post("", responses={"201": Made, "422": ProblemBody}, operation_id="make_project")
    def make_project(body: NewProject) -> Response:
        """A new project with a first shot; a name in use gets a number after it."""
        number = store.make_project(body.name)
        shot = begin_shot(store, files, store.project_name(number), FIRST_SHOT, "", body.start, who().author)
        return made(number, shot)

    @routes.patch("/<int:project_id>", responses={"204": None, "404": ProblemBody}, operation_id="change_project")
    def change_project(path: ProjectPath, body: ProjectChange) -> Response:
        """Give a project another name, put it away or bring it back."""
        if body.name is not None:
            store.rename_project(path.project_id, body.name)
        if body.put_away is not None:
            store.put_away(path.project_id, body.put_away)
        return Response(status=204)

    @routes.post(
        "/<int:project_id>/copy", responses={"201": Made, "404": ProblemBody}, operation_id="duplicate_project"
    )
    def duplicate_project(path: ProjectPath, body: ProjectName) -> Response:
        """A new project with copies of a project's shots as they are now."""
        number = store.duplicate_project(path.project_id, body.name, who().author)
        return made(number, first_shot(number))

    @routes.delete(
        "/<int:project_id>",
        responses={"204": None, "404": ProblemBody, "409": ProblemBody},
        operation_id="delete_project",
    )
    def delete_project(path: ProjectPath, query: ProjectName) -> Response:
        """Delete a project with all its shots for good; `name` says once more which."""
        store.delete_project(path.project_id, query.name)
        return Response(status=204)

    @routes.post("/demo", responses={"201": Made}, operation_id="begin_demo_again")
    def begin_demo() -> Response:
        """The demo as it was at first. One that is there is put away under another name, with all that was done in it."""
        if any(each.name == PROJECT for each in store.list_projects()):
            begin_demo_again(store, files)
        else:
            load_demo(store, files)
        number = next(each.id for each in store.list_projects() if each.name == PROJECT)
        return made(number, first_shot(number))

    @routes.post(
        "/<int:project_id>/shots",
        responses={"201": Made, "404": ProblemBody, "422": ProblemBody},
        operation_id="make_shot",
    )
    def make_shot(path: ProjectPath, body: NewShot) -> Response:
        """A new shot: empty, with the starter set, or a copy of another of any project; a name in use gets a number after it."""
        project, author = store.project_name(path.project_id), who().author
        if body.start != "copy":
            number = begin_shot(store, files, project, body.name, body.title, body.start, author)
            return made(number, number)
        if body.of is None:
            return problem(422, "Copy of which?", "A copy names the shot that it is of: of.")
        source = store.current(body.of)
        document = {**source.document, "name": body.name, "title": body.title or source.document["title"]}
        number = store.add_shot(project, document, f"copy of {source.document['name']}", author, body.of)
        return made(number, number)

    return routes
