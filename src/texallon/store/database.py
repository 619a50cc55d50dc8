"""Connecting to the database and bringing its tables up to date."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, text

MIGRATIONS = Path(__file__).parent / "migrations"


def connect(url: str) -> Engine:
    """An engine for a PostgreSQL URL; plain `postgresql://` is served by psycopg 3 as well."""
    if url.startswith("postgresql://"):
        url = url.replace("postgresql://", "postgresql+psycopg://", 1)
    return create_engine(url, pool_pre_ping=True, pool_size=8, max_overflow=24)


def migrate(engine: Engine) -> None:
    """Run the migrations that have not run yet; two processes that start together wait for each other."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        connection.execute(text("SELECT pg_advisory_xact_lock(72031)"))
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
