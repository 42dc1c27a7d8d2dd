"""Only this machine's own pages may speak to the application, and they run nothing but what ships with it."""

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from .network import Network
from .problems import Problem, response

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:;"
    " font-src 'self'; connect-src 'self'; manifest-src 'self'; worker-src 'self'; base-uri 'none'; form-action 'self';"
    " frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


SHARED = "/shared/"
"""Where findings that are shared by a link are shown."""

SHARED_POLICY = (
    "default-src 'none'; style-src 'unsafe-inline'; img-src data:; font-src data:; base-uri 'none'; form-action 'none';"
    " frame-ancestors 'none'; sandbox"
)
"""A shared page asks for nothing and runs nothing."""

HSTS = "max-age=31536000"


class Guard:
    """Refuses a foreign Host or Origin; adds the security headers to every answer."""

    def __init__(self, app: ASGIApp, network: Network) -> None:
        self.app, self._network = app, network

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        origin = headers.get("origin")
        more = dict(HEADERS)
        if scope.get("path", "").startswith("/api/"):
            more["Cache-Control"] = "no-store"
        if scope.get("path", "").startswith(SHARED):
            more |= {
                "Cache-Control": "no-store", "Content-Security-Policy": SHARED_POLICY, "X-Robots-Tag": "noindex",
            }  # fmt: skip
        # An authority of its own may be made anew; a browser that insists on TLS would then let nobody by.
        if scope.get("scheme") == "https" and self._network.authority is None:
            more["Strict-Transport-Security"] = HSTS

        async def send_guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message).update(more)
            await send(message)

        if _name(f"//{host}") not in self._network.hosts or (origin is not None and _origin(origin) != host):
            refused = Problem(
                title="Not from here",
                status=403,
                detail="this application answers only to its own pages on this machine",
                mend="open it at the address that it printed",
            )
            await response(refused)(scope, receive, send_guarded)
            return
        await self.app(scope, receive, send_guarded)


def _origin(origin: str) -> str:
    """The host and port of an origin; empty where it is none."""
    try:
        return urlsplit(origin).netloc
    except ValueError:
        return ""


def _name(address: str) -> str:
    try:
        return urlsplit(address).hostname or ""
    except ValueError:
        return ""
