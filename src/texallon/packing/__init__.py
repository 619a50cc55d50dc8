"""Projects and shots as one file: a zip of plain documents, meshes and pictures with a manifest, readable without this program."""
