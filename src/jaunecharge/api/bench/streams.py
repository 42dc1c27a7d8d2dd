"""Live updates as server-sent events, resumed where they broke off."""

import asyncio
import json
import re
import uuid
from collections.abc import AsyncIterator, Callable
from typing import Any

from fastapi import Request
from sse_starlette import EventSourceResponse, ServerSentEvent

from ...live.hub import Hub

PING_S = 10
ASKS_EVERY_S = 2.0
"""So often it is seen whether who listens still may."""

MOST_WAITING = 2000
EVENTS: dict[int | str, dict[str, Any]] = {
    200: {
        "description": "server-sent events `bench`, each with the count of the bench as its id",
        "content": {"text/event-stream": {"schema": {"$ref": "#/components/schemas/BenchEvent"}}},
    }
}
"""Answer of a stream, for the description of the API."""


def last_seen(request: Request, after: int | None) -> int:
    """The count up to which who asks knows the bench: as a browser that comes back says, or as asked."""
    last_id = request.headers.get("last-event-id", "")
    return int(last_id) if re.fullmatch("[0-9]{1,18}", last_id) else (after if after is not None else -1)


def of_lane(text: str, lane: str) -> str:
    """News of one lane alone."""
    event = json.loads(text)
    event["figures"] = {i: f for i, f in event["figures"].items() if i == lane}
    event["views"] = [v for v in event["views"] if v["id"] == lane]
    event["over"] = [i for i in event["over"] if i == lane]
    event["aside"] = [x for x in event["aside"] if x["id"] == lane]
    return json.dumps(event, separators=(",", ":"))


def stream(
    hub: Hub, known: int, only: uuid.UUID | None = None, may: Callable[[], bool] = lambda: True
) -> EventSourceResponse:
    """Every change from a count on, as long as somebody listens; of one lane alone where only one may be seen.

    It ends once who listens `may` no more, or that lane has ended.
    """

    def written(text: str) -> str:
        return text if only is None else of_lane(text, str(only))

    async def events() -> AsyncIterator[Any]:
        loop = asyncio.get_running_loop()
        waiting: asyncio.Queue[tuple[int, str]] = asyncio.Queue()

        def hears(tick: int, text: str) -> None:
            # Who does not keep up starts afresh: what waits is let go, and the next line carries all that was missed.
            loop.call_soon_threadsafe(waiting.put_nowait, (tick, text))

        def still() -> bool:
            try:
                return may()
            except Exception:  # Nobody is put out because the database does not answer.
                return True

        asked = loop.time()
        leave = hub.listen(hears)
        try:
            seen = known
            if hub.tick > known:
                seen, text = await asyncio.to_thread(hub.since, known)
                yield ServerSentEvent(written(text), event="bench", id=str(seen))
            while True:
                try:
                    tick, text = await asyncio.wait_for(waiting.get(), ASKS_EVERY_S)
                except TimeoutError:
                    tick, text = -1, ""
                if loop.time() - asked > ASKS_EVERY_S:
                    asked = loop.time()
                    if not await asyncio.to_thread(still):
                        return
                if waiting.qsize() > MOST_WAITING:
                    while not waiting.empty():
                        waiting.get_nowait()
                    tick, text = await asyncio.to_thread(hub.since, seen)
                if tick < seen or not text:
                    continue
                seen = max(seen, tick)
                yield ServerSentEvent(written(text), event="bench", id=str(tick))
        finally:
            leave()

    return EventSourceResponse(events(), ping=PING_S, headers={"Cache-Control": "no-store"})
