"""Files that arrive as the body of a request."""

from fastapi import Request
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from ..core.errors import CannotRead
from ..formats.read.limits import refuse_too_large
from ..store.runs.uploads import Upload
from .context import Context

FILE_AS_BODY = {
    "requestBody": {
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        "required": True,
    }
}


async def receive(request: Request, context: Context, name: str) -> Upload:
    """The body of a request as a file of the state folder; refused as soon as it grows too large."""
    upload = await run_in_threadpool(context.uploads.begin, name)
    size = 0
    try:
        with upload.path.open("wb") as file:
            async for block in request.stream():
                size += len(block)
                refuse_too_large(size, upload.name)
                await run_in_threadpool(file.write, block)
        await run_in_threadpool(context.uploads.keep, upload)
    except ClientDisconnect as gone:
        context.uploads.drop(upload)
        raise CannotRead("the file did not arrive whole", "send it again", file=upload.name) from gone
    except BaseException:
        context.uploads.drop(upload)
        raise
    return upload
