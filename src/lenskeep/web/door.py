"""Who may come in: whoever has the address that was printed at start, which names a key that is kept in the library.

Any account of the machine can open the port; the library's folder, and the key in it, can be read by its owner alone.
"""

import hmac
import os
import secrets
from hashlib import sha256
from pathlib import Path
from urllib.parse import parse_qsl, urlencode

from starlette.datastructures import Headers
from starlette.requests import cookie_parser
from starlette.responses import PlainTextResponse, RedirectResponse
from starlette.types import ASGIApp, Receive, Scope, Send

KEY_FILE = "access.key"
KEY_FIELD = "key"
YEAR_SECONDS = 31_536_000
CLOSED = (
    "This is Lens Keep, and it does not know you yet. Open the address that it printed where it was started: the one "
    "with “?key=” in it. Whoever may read the library finds the key in its file “access.key”."
)


def is_open() -> bool:
    """``LENSKEEP_OPEN=1``: nobody is asked for a key. For a machine that has no other accounts, and for tests."""
    return os.environ.get("LENSKEEP_OPEN", "") == "1"


def key_of(home: Path) -> str:
    """The key of the library in ``home``, made when there is none; the folder is its owner's alone from then on."""
    home.mkdir(parents=True, exist_ok=True)
    if home.stat().st_uid == os.getuid():
        home.chmod(0o700)
    path = home / KEY_FILE
    try:
        with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as sink:
            sink.write(secrets.token_urlsafe(24))
    except FileExistsError:
        pass
    return path.read_text().strip()


class Door:
    """Lets in who brings the key, once, by the address; from then on by a cookie that is worth nothing elsewhere."""

    def __init__(self, app: ASGIApp, key: str) -> None:
        self._app, self._key = app, key
        self._cookie = f"lenskeep_in_{sha256(key.encode()).hexdigest()[:8]}"  # several libraries on one machine
        self._worth = hmac.new(key.encode(), b"let in", "sha256").hexdigest()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or self._let_in(scope):
            await self._app(scope, receive, send)
            return
        asked = parse_qsl(scope["query_string"].decode("latin-1"), keep_blank_values=True)
        given = next((value for name, value in asked if name == KEY_FIELD), "")
        if scope["method"] == "GET" and hmac.compare_digest(given.encode(), self._key.encode()):
            rest = urlencode([(name, value) for name, value in asked if name != KEY_FIELD])
            answer = RedirectResponse(scope["path"] + (f"?{rest}" if rest else ""), 303)
            answer.set_cookie(self._cookie, self._worth, YEAR_SECONDS, path="/", httponly=True, samesite="strict")
            answer.headers["cache-control"] = "no-store"
            answer.headers["referrer-policy"] = "no-referrer"
            await answer(scope, receive, send)
            return
        await PlainTextResponse(CLOSED, 401, {"cache-control": "no-store"})(scope, receive, send)

    def _let_in(self, scope: Scope) -> bool:
        held = cookie_parser(Headers(scope=scope).get("cookie", "")).get(self._cookie, "")
        return hmac.compare_digest(held.encode(), self._worth.encode())
