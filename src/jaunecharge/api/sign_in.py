"""Signing in: asked of everybody once the application listens on the network, but for a lane in the hand."""

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import BaseModel, Field
from starlette.types import ASGIApp, Receive, Scope, Send

from ..live.steady import now
from ..store import sign_ins as store
from .context import context_of
from .network import Network
from .problems import RESPONSES, Problem, response
from .signed import COOKIE, Known, token_of

OPEN_PAGES = ("/assets/", "/hand/", "/api/hand/", "/favicon")
OPEN_EXACT = frozenset({"/sign-in", "/api/sign-in", "/api/network", "/api/health"})

router = APIRouter(prefix="/api", tags=["sign-in"], responses=RESPONSES)


class NetworkShape(BaseModel):
    """How the application is reached."""

    reachable: bool
    secure: bool
    address: str
    signed_in: bool


class Passphrase(BaseModel):
    """The passphrase of the bench."""

    passphrase: str = Field(max_length=500)


class SignInGuard:
    """Lets nobody pass who has not signed in, where the application listens on the network."""

    def __init__(self, app: ASGIApp, network: Network, known: Known) -> None:
        self.app, self._network, self._known = app, network, known

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        path = scope.get("path", "")
        if scope["type"] != "http" or not self._network.reachable or self._may_pass(path, scope):
            await self.app(scope, receive, send)
            return
        if path.startswith("/api/"):
            problem = Problem(
                type="urn:jaunecharge:sign-in", title="Sign in first", status=401,
                detail="this bench asks for its passphrase", mend="open its sign-in page, and give it",
            )  # fmt: skip
            await response(problem)(scope, receive, send)
        else:
            await RedirectResponse("/sign-in", 303)(scope, receive, send)

    def _may_pass(self, path: str, scope: Scope) -> bool:
        pushed = path.startswith("/api/lanes/") and path.endswith("/readings")
        if path in OPEN_EXACT or path.startswith(OPEN_PAGES) or pushed:
            return True
        return self._known.good(token_of(scope))


@router.get("/network")
def show_network(request: Request) -> NetworkShape:
    """How the application is reached, and whether who asks has signed in."""
    context = context_of(request)
    network = context.network
    signed = not network.reachable or context.known.good(token_of(request.scope))
    return NetworkShape(
        reachable=network.reachable, secure=network.secure, address=network.address if signed else "", signed_in=signed
    )


@router.post("/sign-in", status_code=204, response_class=Response)
def give_passphrase(request: Request, given: Passphrase) -> Response:
    """Sign in."""
    context = context_of(request)
    if context.tries.too_many():
        return response(
            Problem(title="Wait", status=429, detail="too many wrong passphrases", mend="wait a minute, then try again")
        )
    with context.database.session() as session:
        token = store.sign_in(session, given.passphrase, now())
    if token is None:
        context.tries.wrong()
        return response(
            Problem(title="Wrong", status=403, detail="that is not the passphrase", mend="try again", file="passphrase")
        )
    answer = Response(status_code=204)
    answer.set_cookie(
        COOKIE, token, max_age=int(store.LASTS.total_seconds()), httponly=True, samesite="strict",
        secure=request.url.scheme == "https",
    )  # fmt: skip
    return answer


@router.delete("/sign-in", status_code=204, response_class=Response)
def leave(request: Request) -> Response:
    """Sign out."""
    context, token = context_of(request), token_of(request.scope)
    with context.database.session() as session:
        store.sign_out(session, token)
    context.known.forget(token)
    answer = Response(status_code=204)
    answer.delete_cookie(COOKIE)
    return answer
