"""A finding shared by a link: whoever has it reads that finding, and nothing else, without signing in."""

import threading
import uuid
from typing import Annotated

from cachetools import TTLCache
from fastapi import Path, Request, Response

from ...formats.report.page import page
from ...live.steady import now
from ...store.finding_models import FindingLink
from ...store.findings import findings as store
from ...store.findings.links import link_of, share, shared_by, take_back
from ...store.findings.report import report_of
from ..context import about, context_of, name_of
from ..guard import SHARED
from ..strict import make_router
from . import shapes

router = make_router("findings")
GONE = (
    "<!doctype html><html lang=en><meta charset=utf-8><title>Nothing here</title>"
    "<body><h1>This link shows nothing, or no longer</h1><p>Ask whoever sent it for another one.</p></body></html>"
)
HTML = "text/html; charset=utf-8"
UNREACHED = "Only this machine can open it: start with --lan to share it on the network."
READABLE = "Not encrypted: anyone on this network can read along. Start with --tls CERT KEY to prevent that."
KEPT_S = 10.0
_pages: TTLCache[tuple[str, int], str] = TTLCache(20, KEPT_S)
_one_at_a_time = threading.Lock()


def _shape(request: Request, link: FindingLink | None) -> shapes.SharedShape:
    if link is None:
        return shapes.SharedShape(url="", note="", since=None, by="")
    network = context_of(request).network
    base = (network.address or str(request.base_url)).rstrip("/")
    note = UNREACHED if not network.reachable else "" if network.secure else READABLE
    return shapes.SharedShape(url=f"{base}{SHARED}{link.token}", note=note, since=link.made_at, by=link.made_by)


@router.get("/findings/{finding_id}/link")
def show_link(request: Request, finding_id: uuid.UUID) -> shapes.SharedShape:
    """Hand out the link by which a finding is shared; it is empty where it is not."""
    with context_of(request).database.session() as session:
        return _shape(request, link_of(session, store.get_finding(session, finding_id).id))


@router.put("/findings/{finding_id}/link")
def share_finding(request: Request, finding_id: uuid.UUID) -> shapes.SharedShape:
    """Share a finding by a link: whoever has it reads this finding, without signing in."""
    with context_of(request).database.session() as session:
        about(request, store.get_finding(session, finding_id).question)
        return _shape(request, share(session, finding_id, now(), name_of(request)))


@router.delete("/findings/{finding_id}/link", status_code=204, response_class=Response)
def take_link_back(request: Request, finding_id: uuid.UUID) -> None:
    """Take the link to a finding back: it shows nothing from now on."""
    with context_of(request).database.session() as session:
        about(request, store.get_finding(session, finding_id).question)
        take_back(session, finding_id)


pages = make_router("findings", prefix="")


@pages.get(
    SHARED + "{token}", response_class=Response,
    responses={200: {"content": {"text/html": {}}}, 404: {"content": {"text/html": {}}, "description": "nothing"}},
)  # fmt: skip
def show_shared(request: Request, token: Annotated[str, Path(max_length=100)]) -> Response:
    """The page of a finding that is shared by this link, as it stands now."""
    with context_of(request).database.session() as session:
        found = shared_by(session, token)
        if found is None:
            return Response(GONE, 404, media_type=HTML)
        with _one_at_a_time:
            made = _pages.get((token, found.revision))
            if made is None:
                made = _pages[token, found.revision] = page(report_of(session, found)[0])
    return Response(made, media_type=HTML)
