"""A stand-in for an S3-compatible object store on loopback: objects, parts of objects, ranges; in memory."""

import contextlib
import datetime as dt
import threading
import uuid
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, unquote, urlsplit

KEY, SECRET = "hutkey", "hutsecret"
XML = '<?xml version="1.0" encoding="UTF-8"?>'


class ObjectStore:
    """Objects of one store by bucket and key, and what was asked of it."""

    def __init__(self) -> None:
        self.objects: dict[str, bytes] = {}
        self.put_at: dict[str, dt.datetime] = {}
        self.parts: dict[str, dict[int, bytes]] = {}
        self.asked: list[str] = []


def _listed(store: ObjectStore, bucket: str, prefix: str) -> bytes:
    """Objects whose keys begin like this."""
    listed = "".join(
        f"<Contents><Key>{place.removeprefix(bucket)}</Key><Size>{len(store.objects[place])}</Size>"
        f"<LastModified>{at:%Y-%m-%dT%H:%M:%S.000Z}</LastModified></Contents>"
        for place, at in store.put_at.items()
        if place in store.objects and place.startswith(bucket + prefix)
    )
    result = f"<IsTruncated>false</IsTruncated>{listed}"
    return f"{XML}<ListBucketResult>{result}</ListBucketResult>".encode()


def _handler(store: ObjectStore) -> type[BaseHTTPRequestHandler]:
    class Handler(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"

        def log_message(self, *_: object) -> None:
            pass

        def _answer(self, status: int, body: bytes = b"", **headers: str) -> None:
            self.send_response(status)
            for name, value in headers.items():
                self.send_header(name.replace("_", "-"), value)
            if "Content_Length" not in headers:
                self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            if self.command != "HEAD":
                self.wfile.write(body)

        def _place(self) -> tuple[str, dict[str, list[str]]]:
            store.asked.append(f"{self.command} {self.path}")
            split = urlsplit(self.path)
            return unquote(split.path), parse_qs(split.query, keep_blank_values=True)

        def _body(self) -> bytes:
            if self.headers.get("Transfer-Encoding", "") == "chunked":
                sent = b""
                while size := int(self.rfile.readline().split(b";")[0], 16):
                    sent += self.rfile.read(size)
                    self.rfile.readline()
                self.rfile.readline()
            else:
                sent = self.rfile.read(int(self.headers.get("Content-Length", 0)))
            if "aws-chunked" not in self.headers.get("Content-Encoding", ""):
                return sent
            whole, at = b"", 0
            while (size := int(sent[at : (end := sent.index(b"\r\n", at))].split(b";")[0], 16)) > 0:
                whole += sent[end + 2 : end + 2 + size]
                at = end + 2 + size + 2
            return whole

        def _signed(self) -> bool:
            if f"Credential={KEY}/" in self.headers.get("Authorization", ""):
                return True
            self._body()
            self._answer(403, f"{XML}<Error><Code>AccessDenied</Code></Error>".encode())
            return False

        def do_PUT(self) -> None:
            place, asked = self._place()
            if not self._signed():
                return
            body = self._body()
            if "uploadId" in asked:
                store.parts[asked["uploadId"][0]][int(asked["partNumber"][0])] = body
            else:
                store.objects[place], store.put_at[place] = body, dt.datetime.now(dt.UTC)
            self._answer(200, ETag='"1"')

        def do_POST(self) -> None:
            place, asked = self._place()
            if not self._signed():
                return
            self._body()
            if "uploads" in asked:
                upload = uuid.uuid4().hex
                store.parts[upload] = {}
                result = f"<UploadId>{upload}</UploadId></InitiateMultipartUploadResult>"
                self._answer(200, f"{XML}<InitiateMultipartUploadResult>{result}".encode())
            else:
                parts = store.parts.pop(asked["uploadId"][0])
                store.objects[place] = b"".join(parts[n] for n in sorted(parts))
                store.put_at[place] = dt.datetime.now(dt.UTC)
                result = "<ETag>1</ETag></CompleteMultipartUploadResult>"
                self._answer(200, f"{XML}<CompleteMultipartUploadResult>{result}".encode())

        def do_GET(self) -> None:
            place, asked = self._place()
            if not self._signed():
                return
            whole = store.objects.get(place)
            if "list-type" in asked:
                self._answer(200, _listed(store, f"{place.rstrip('/')}/", asked["prefix"][0]))
            elif whole is None:
                missing = f"{XML}<Error><Code>NoSuchKey</Code></Error>".encode()
                self._answer(404, b"" if self.command == "HEAD" else missing)
            elif self.command == "HEAD":
                self._answer(200, Content_Length=str(len(whole)), ETag='"1"')
            elif wanted := self.headers.get("Range", ""):
                first, last = wanted.removeprefix("bytes=").split("-")
                part = whole[int(first) : int(last) + 1]
                span = f"bytes {first}-{int(first) + len(part) - 1}/{len(whole)}"
                self._answer(206, part, Content_Range=span, ETag='"1"')
            else:
                self._answer(200, whole, ETag='"1"')

        do_HEAD = do_GET

        def do_DELETE(self) -> None:
            place, _ = self._place()
            if self._signed():
                store.objects.pop(place, None)
                self._answer(204)

    return Handler


@contextlib.contextmanager
def object_store() -> Iterator[tuple[ObjectStore, str]]:
    """A store, and its address for `JAUNECHARGE_UPLOADS_URL`."""
    store = ObjectStore()
    server = ThreadingHTTPServer(("127.0.0.1", 0), _handler(store))
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        port = server.server_address[1]
        query = f"scheme=http&endpoint_override=127.0.0.1%3A{port}&region=hut"
        yield store, f"s3://{KEY}:{SECRET}@bench/sent?{query}"
    finally:
        server.shutdown()
        server.server_close()
        thread.join()
