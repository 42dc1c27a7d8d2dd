"""The bench's own authority, given out to devices that are to trust it, with the steps and what is safe about it."""

import ssl

from fastapi import APIRouter, Request, Response

from .context import context_of
from .problems import Problem, response
from .templates import template

CRT = "application/x-x509-ca-cert"
NONE = Problem(
    title="There is none", status=404, detail="this bench has no authority of its own",
    mend="start it with --lan --tls auto",
)  # fmt: skip
router = APIRouter(include_in_schema=False)


@router.get("/trust")
def show_trust(request: Request) -> Response:
    """The steps of trusting the bench, to read."""
    network = context_of(request).network
    if network.authority is None:
        return response(NONE)
    names = ", ".join(network.names) or "localhost"
    shown = template("trust.html").render(fingerprint=network.fingerprint, names=names)
    return Response(shown, media_type="text/html; charset=utf-8")


@router.get("/authority.crt")
def give_authority(request: Request) -> Response:
    """The authority as phones take it (DER)."""
    authority = context_of(request).network.authority
    if authority is None:
        return response(NONE)
    return Response(ssl.PEM_cert_to_DER_cert(authority.read_text()), media_type=CRT)


@router.get("/authority.pem")
def give_authority_as_pem(request: Request) -> Response:
    """The authority as command-line tools take it."""
    authority = context_of(request).network.authority
    if authority is None:
        return response(NONE)
    return Response(authority.read_bytes(), media_type="application/x-pem-file")
