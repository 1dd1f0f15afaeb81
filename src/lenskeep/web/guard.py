"""What protects the local server: known hosts only, a token with every change, and a strict content policy."""

import hmac
import secrets
from urllib.parse import parse_qs

from starlette.datastructures import Headers, MutableHeaders
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.requests import cookie_parser
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from lenskeep.web import own_files

HOSTS = ["127.0.0.1", "localhost", "[::1]"]
COOKIE = "lenskeep_session"
TOKEN_HEADER = "x-csrf-token"
TOKEN_FIELD = "csrf_token"
SAFE_METHODS = {"GET", "HEAD", "OPTIONS"}
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
_HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
}
_MOST_FORM_BYTES = 1_000_000
_MOST_BYTES = 4_000_000
TOO_LONG = "This is more than one change can hold. Do it in smaller parts."
REFUSED = "This page is out of date. Reload it and try again."

__all__ = ["COOKIE", "HOSTS", "POLICY", "Guard", "TrustedHostMiddleware"]


class Guard:
    """Sets the session cookie and the headers, and refuses changes that lack the session's token.

    The token is an HMAC of the session cookie under a secret made at start; a page of another site can read neither.
    """

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._secret = secrets.token_bytes(32)

    def token(self, session: str) -> str:
        """The token that goes with a session cookie."""
        return hmac.new(self._secret, session.encode(), "sha256").hexdigest()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        session = cookie_parser(headers.get("cookie", "")).get(COOKIE, "")
        fresh = len(session) < 32
        if fresh:
            session = secrets.token_urlsafe(32)
        scope.setdefault("state", {})["csrf_token"] = self.token(session)

        async def sending(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    out[name] = value
                out.setdefault("cache-control", _caching(scope))
                if fresh:
                    out.append("set-cookie", f"{COOKIE}={session}; Path=/; HttpOnly; SameSite=Strict")
            await send(message)

        if scope["method"] not in SAFE_METHODS:
            if _too_long(headers):
                await PlainTextResponse(TOO_LONG, 413)(scope, receive, sending)
                return
            given = headers.get(TOKEN_HEADER, "")
            if not given and headers.get("content-type", "").startswith("application/x-www-form-urlencoded"):
                given, receive = await _token_in_form(receive)
            if fresh or not hmac.compare_digest(given.encode(), self.token(session).encode()):
                await PlainTextResponse(REFUSED, 403)(scope, receive, sending)
                return
        await self._app(scope, receive, sending)


def _caching(scope: Scope) -> str:
    """Pages are never kept; files of the application itself are, for good when their address names what is in them."""
    if scope["path"].startswith(f"{own_files.ADDRESS}/"):
        return "public, max-age=31536000, immutable"
    return "no-cache" if scope["path"].startswith(f"{own_files.EVER}/") else "no-store"


def _too_long(headers: Headers) -> bool:
    """Changes are small; only files are large, and those say that they are."""
    if headers.get("content-type", "").startswith(("multipart/", "application/octet-stream")):
        return False
    length = headers.get("content-length", "")
    return (not length.isdigit() and "transfer-encoding" in headers) or (length.isdigit() and int(length) > _MOST_BYTES)


async def _token_in_form(receive: Receive) -> tuple[str, Receive]:
    """The token out of a plain form, and a ``receive`` that gives the body once more."""
    body, more = b"", True
    while more and len(body) < _MOST_FORM_BYTES:
        message = await receive()
        body += message.get("body", b"")
        more = message.get("more_body", False)
    sent = False

    async def again() -> Message:
        nonlocal sent
        if sent:
            return await receive()
        sent = True
        return {"type": "http.request", "body": body, "more_body": more}

    return parse_qs(body.decode("utf-8", "replace")).get(TOKEN_FIELD, [""])[0], again
