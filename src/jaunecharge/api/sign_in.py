"""Signing in: asked of everybody once the application listens on the network, but for a lane in the hand, and for
whoever has the link to a finding."""

import datetime as dt
import uuid
from typing import Literal

from fastapi import Request, Response
from fastapi.responses import RedirectResponse
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Scope, Send

from ..live.steady import now
from ..store import audit, people
from ..store import bench_models as b
from ..store import sign_ins as store
from ..store.database import LOOKS_ONLY
from .context import about, context_of
from .door import is_pushed
from .guard import SHARED
from .network import Network
from .numbers import Counted
from .problems import LOOKS_ONLY as LOOKS_ONLY_SAID
from .problems import Problem, answer_to, response
from .signed import WHO, Known, Who, address_of, cookie_name, token_of, who_of
from .strict import make_router

OPEN_PAGES = ("/assets/", "/hand/", "/api/hand/", SHARED, "/favicon", "/icon-")
OPEN_EXACT = frozenset(
    {
        "/sign-in", "/api/sign-in", "/api/network", "/api/health", "/trust", "/authority.crt", "/authority.pem",
        "/manifest.webmanifest", "/sw.js",
    }
)  # fmt: skip
LOOKING = frozenset({"GET", "HEAD", "OPTIONS"})
WORKED_OUT = frozenset(
    {
        "/api/chain", "/api/coverage", "/api/bench/echo", "/api/versus/claim", "/api/versus/carry", "/api/versus/plan",
        "/api/plans/preview", "/api/temperatures/understanding", "/api/checkins/understanding", "/api/sign-in",
        "/api/sign-ins",
    }
)  # fmt: skip
"""Addresses that only work something out: a person who may only look may ask for it."""

SLOT_WITHIN_S = 5.0

router = make_router("sign-in")
Role = Literal["change", "look"]


class NetworkShape(BaseModel):
    """Address and protection of the application, and the person who asks."""

    reachable: bool
    secure: bool
    address: str
    signed_in: bool
    name: str = Field("", description="who has signed in")
    role: Role = "change"


class Passphrase(BaseModel):
    """Name and passphrase of a person who signs in."""

    name: str = Field("", max_length=120, description="empty: the person called “bench”")
    passphrase: str = Field(max_length=500)


class SessionShape(BaseModel):
    """Somebody who has signed in: from where, since when, and until when at most."""

    id: uuid.UUID
    name: str
    at: dt.datetime
    until: dt.datetime
    address: str
    agent: str
    own: bool = Field(description="whether it is the session that asks")


class PersonShape(BaseModel):
    """Somebody who may sign in."""

    id: uuid.UUID
    name: str
    role: Role
    created_at: dt.datetime


class NewPerson(BaseModel):
    """Somebody who is to sign in from now on."""

    name: str = Field(max_length=120)
    role: Role = "change"
    passphrase: str = Field(max_length=500)


class NewPassphrase(BaseModel):
    """Another passphrase."""

    passphrase: str = Field(max_length=500)


class AuditShape(BaseModel):
    """Line of the audit log: who did what, when, to what, and from where."""

    id: int
    at: dt.datetime
    who: str
    what: str
    about: str
    address: str
    route: str


class SignInGuard:
    """Lets nobody pass who has not signed in, where the application listens on the network."""

    def __init__(self, app: ASGIApp, network: Network, known: Known) -> None:
        self.app, self._network, self._known = app, network, known

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        path = scope.get("path", "")
        if not self._network.reachable:
            scope[WHO] = Who("", "change", address_of(scope))
            await self.app(scope, receive, send)
            return
        try:
            signed = await run_in_threadpool(self._known.who, token_of(scope))
        except Exception as error:
            await answer_to(error)(scope, receive, send)
            return
        if signed is not None:
            scope[WHO] = Who(signed.name, signed.role, address_of(scope), signed)
        elif not (path in OPEN_EXACT or path.startswith(OPEN_PAGES) or is_pushed(path)):
            await _sign_in_first(path)(scope, receive, send)
            return
        looks_only = signed is not None and signed.role == "look" and not path.startswith(OPEN_PAGES)
        if looks_only and scope["method"] not in LOOKING and path not in WORKED_OUT:
            await response(LOOKS_ONLY_SAID)(scope, receive, send)
            return
        reset = LOOKS_ONLY.set(looks_only and path not in {"/api/sign-in", "/api/sign-ins"})
        try:
            await self.app(scope, receive, send)
        finally:
            LOOKS_ONLY.reset(reset)


def _sign_in_first(path: str) -> Response:
    if not path.startswith("/api/"):
        return RedirectResponse("/sign-in", 303)
    return response(
        Problem(
            type="urn:jaunecharge:sign-in", title="Sign in first", status=401,
            detail="this bench asks for your name and passphrase", mend="open its sign-in page, and give them",
        )
    )  # fmt: skip


@router.get("/network")
def show_network(request: Request) -> NetworkShape:
    """Address and protection of the application, and the person who asks."""
    network, who = context_of(request).network, who_of(request.scope)
    return NetworkShape(
        reachable=network.reachable, secure=network.secure, address=network.address if who is not None else "",
        signed_in=who is not None, name=who.name if who else "", role=who.role if who else "change",
    )  # fmt: skip


@router.post("/sign-in", status_code=204, response_class=Response)
def give_passphrase(request: Request, given: Passphrase) -> Response:
    """Sign in."""
    context, address = context_of(request), address_of(request.scope)
    with context.database.session() as session:
        wait_s = store.count_try(session, address, now())
    if wait_s > 0.0:
        return _wait(wait_s)
    with context.database.session() as session:
        person = people.by_name(session, given.name)
        digest = None if person is None else person.digest
    if not context.checking.acquire(timeout=SLOT_WITHIN_S):
        return _wait(SLOT_WITHIN_S)
    try:
        right = people.is_right(digest, given.passphrase)
    finally:
        context.checking.release()
    name = given.name.strip() or people.FIRST
    with context.database.session() as session:
        audit.add_line(
            session, now(), name if right else "", address,
            "sign in" if right else "try to sign in, with a wrong passphrase", "" if right else name,
            "POST /api/sign-in",
        )  # fmt: skip
        if not right or person is None:
            return _wrong()
        store.forget_tries(session, address)
        token = store.sign_in(session, person, now(), address, Headers(scope=request.scope).get("user-agent", ""))
    answer = Response(status_code=204)
    secure = request.scope.get("scheme") == "https"
    answer.set_cookie(
        cookie_name(secure), token, max_age=int(store.LASTS.total_seconds()), httponly=True, samesite="strict",
        secure=secure, path="/",
    )  # fmt: skip
    return answer


def _wait(seconds: float) -> Response:
    answer = response(
        Problem(
            title="Wait", status=429, detail="too many passphrases were tried from this machine",
            mend=f"wait {seconds:.0f} s, then try again",
        )
    )  # fmt: skip
    answer.headers["Retry-After"] = str(int(seconds) + 1)
    return answer


def _wrong() -> Response:
    return response(
        Problem(
            title="Wrong", status=403, detail="name and passphrase do not belong together", mend="try again",
            file="passphrase",
        )
    )  # fmt: skip


@router.delete("/sign-in", status_code=204, response_class=Response)
def leave(request: Request) -> Response:
    """Sign out."""
    context, token = context_of(request), token_of(request.scope)
    with context.database.session() as session:
        store.sign_out(session, token)
    context.known.forget()
    return _without_cookie(request)


def _without_cookie(request: Request) -> Response:
    answer = Response(status_code=204)
    secure = request.scope.get("scheme") == "https"
    answer.delete_cookie(cookie_name(secure), path="/", secure=secure, httponly=True, samesite="strict")
    return answer


@router.get("/sign-ins")
def list_sessions(request: Request) -> list[SessionShape]:
    """Everybody who has signed in, the last first."""
    who = who_of(request.scope)
    own = None if who is None or who.session is None else who.session.id
    with context_of(request).database.session() as session:
        return [
            SessionShape(
                id=s.id, name=name, at=s.at, until=s.until, address=s.address, agent=s.agent, own=s.id == own
            )
            for s, name in store.sessions(session, now())
        ]  # fmt: skip


@router.delete("/sign-ins", status_code=204, response_class=Response)
def leave_everywhere(request: Request) -> Response:
    """Sign out everywhere: every session of who asks ends."""
    context, who = context_of(request), who_of(request.scope)
    if who is not None and who.session is not None:
        with context.database.session() as session:
            store.sign_out_everywhere(session, who.session.person_id)
        context.known.forget()
    return _without_cookie(request)


@router.delete("/sign-ins/{session_id}", status_code=204, response_class=Response)
def end_session(request: Request, session_id: uuid.UUID) -> Response:
    """End a session."""
    context = context_of(request)
    with context.database.session() as session:
        store.end_session(session, session_id)
    context.known.forget()
    return Response(status_code=204)


def _person(person: b.Person) -> PersonShape:
    return PersonShape(id=person.id, name=person.name, role=person.role, created_at=person.created_at)


@router.get("/people")
def list_people(request: Request) -> list[PersonShape]:
    """Everybody who may sign in."""
    with context_of(request).database.session() as session:
        return [_person(p) for p in people.people(session)]


@router.post("/people", status_code=201)
def add_person(request: Request, new: NewPerson) -> PersonShape:
    """Let somebody sign in."""
    with context_of(request).database.session() as session:
        person = people.add_person(session, new.name, new.role, new.passphrase)
        session.refresh(person)
        about(request, person.name)
        return _person(person)


@router.put("/people/{person_id}/passphrase", status_code=204, response_class=Response)
def change_passphrase(request: Request, person_id: uuid.UUID, new: NewPassphrase) -> Response:
    """Give somebody another passphrase; wherever they are signed in, that ends."""
    context = context_of(request)
    with context.database.session() as session:
        person = people.get_person(session, person_id)
        about(request, person.name)
        people.set_passphrase(session, person, new.passphrase)
    context.known.forget()
    return Response(status_code=204)


@router.delete("/people/{person_id}", status_code=204, response_class=Response)
def remove_person(request: Request, person_id: uuid.UUID) -> Response:
    """Let somebody sign in no more."""
    context = context_of(request)
    with context.database.session() as session:
        person = people.get_person(session, person_id)
        about(request, person.name)
        people.remove_person(session, person)
    context.known.forget()
    return Response(status_code=204)


@router.get("/audit")
def show_audit(request: Request, before: Counted = None) -> list[AuditShape]:
    """Audit log, the last line first; lines before one where that is given."""
    with context_of(request).database.session() as session:
        return [
            AuditShape(id=x.id, at=x.at, who=x.who, what=x.what, about=x.about, address=x.address, route=x.route)
            for x in audit.lines(session, before)
        ]
