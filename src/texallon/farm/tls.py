"""Files for encrypted connections of a farm, as the library takes them."""

from pathlib import Path
from typing import Literal, NamedTuple

from distributed.security import Security


class Tls(NamedTuple):
    """Paths of the authority's certificate, of one's own, and of one's key; empty for plain connections."""

    authority: str = ""
    certificate: str = ""
    key: str = ""

    def security(self, role: Literal["scheduler", "worker", "client"]) -> Security | None:
        """For the library's connections; nothing where they are plain.

        Parameters
        ----------
        role : str
            Of whoever connects, or listens.
        """
        if not any(self):
            return None
        own = {f"tls_{role}_cert": self.certificate, f"tls_{role}_key": self.key}
        return Security(tls_ca_file=self.authority, require_encryption=True, **own)

    def problem(self) -> str:
        """What is wrong with them, in words; empty where nothing is."""
        missing = next((path for path in self if path and not Path(path).is_file()), None)
        if missing is not None:
            return f"there is no file {missing}"
        return "" if all(self) or not any(self) else "an authority, a certificate and a key belong together"
