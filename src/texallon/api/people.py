"""Who asks: the window a request comes from, and the person at it."""

import re
import unicodedata
from urllib.parse import unquote

from flask import g, request
from werkzeug.exceptions import BadRequest

from texallon.store.records import Who


def who() -> Who:
    """The window that asks, and the name of the person at it, as its headers say (a proxy's login before the page); raises `BadRequest` for what can't be either."""
    window = request.headers.get("Texallon-Window", "")
    author = g.get("user") or unquote(request.headers.get("Texallon-Author", "")).strip()
    if window and not re.fullmatch(r"[A-Za-z0-9]{8,64}", window):
        raise BadRequest("Texallon-Window is 8 to 64 letters and digits.")
    if len(author) > 80 or any(unicodedata.category(each)[0] == "C" for each in author):
        raise BadRequest("Texallon-Author is at most 80 characters, none of them a control character.")
    return Who(window, author)
