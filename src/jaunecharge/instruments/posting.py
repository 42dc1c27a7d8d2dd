"""JSON sent to the bench by a stand-in, over HTTP or TLS."""

import http.client
import json
import ssl
import urllib.parse
from pathlib import Path
from typing import Any

TIMEOUT_S = 5.0


class Poster:
    """Sends JSON to one bench.

    Parameters
    ----------
    address : str
        Where the bench is served, as `https://192.168.1.20:8417`.
    trusts : Path or None
        The bench's certificate itself, whoever made it; None: as the machine trusts.
    """

    def __init__(self, address: str, trusts: Path | None = None) -> None:
        self._where = urllib.parse.urlsplit(address)
        self._secured = _trusting(trusts) if self._where.scheme == "https" else None

    def post(self, path: str, body: dict[str, Any], headers: dict[str, str] | None = None) -> tuple[int, Any]:
        """Status and document of the answer; 0 and nothing where there was none."""
        host, port = self._where.hostname or "", self._where.port
        connection = (
            http.client.HTTPConnection(host, port, timeout=TIMEOUT_S)
            if self._secured is None
            else http.client.HTTPSConnection(host, port, timeout=TIMEOUT_S, context=self._secured)
        )
        try:
            connection.request("POST", path, json.dumps(body), {"Content-Type": "application/json", **(headers or {})})
            answer = connection.getresponse()
            return answer.status, json.loads(answer.read() or b"{}")
        except (OSError, http.client.HTTPException, ValueError):
            return 0, {}
        finally:
            connection.close()


def _trusting(certificate: Path | None) -> ssl.SSLContext:
    """TLS that trusts a certificate itself, whoever made it; else as the machine does."""
    if certificate is None:
        return ssl.create_default_context()
    context = ssl.create_default_context(cafile=str(certificate))
    context.verify_flags |= ssl.VERIFY_X509_PARTIAL_CHAIN
    context.check_hostname = (
        False  # It is this very certificate that is trusted, by whatever name the bench is reached.
    )
    return context
