"""Limits for what one person, one project and all together may keep."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Quotas:
    """Limits for what is kept and opened; 0 is none.

    `files` and `files_of_one` are bytes of files that were brought in, by all and by one person; `shots` how many a project may have;
    `windows_of_one` the live connections of one client.
    """

    files: int = 0
    files_of_one: int = 0
    shots: int = 0
    windows_of_one: int = 2_000


NO_QUOTAS = Quotas()


class QuotaError(RuntimeError):
    """More would be kept than a quota allows: says which, what is there and what would come."""


def check_files(quotas: Quotas, size: int, kept: int, of_one: int, author: str) -> None:
    """Refuse a file that a quota has no room for.

    Parameters
    ----------
    quotas : Quotas
        The limits.
    size : int
        Bytes that come.
    kept, of_one : int
        Bytes that are there, in all and of this person.
    author : str
        The person's name; empty where there is none.
    """
    for limit, there, whose in (
        (quotas.files, kept, "all files"),
        (quotas.files_of_one, of_one, f"files of {author or 'people without a name'}"),
    ):
        if limit and there + size > limit:
            raise QuotaError(
                f"{whose} may take {limit / 1e6:,.1f} MB; there are {there / 1e6:,.1f} MB, and {size / 1e6:,.1f} MB would come"
            )


def check_shots(quotas: Quotas, there: int) -> None:
    """Refuse a shot where the project has as many as it may have."""
    if quotas.shots and there >= quotas.shots:
        raise QuotaError(f"a project may have {quotas.shots:,} shots, and this one has {there:,}")
