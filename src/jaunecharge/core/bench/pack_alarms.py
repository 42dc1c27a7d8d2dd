"""Watch rules of a pack alone on the bench: its output gone, full, hot, swelling; beside those of the instruments."""

from ..packs import FULL_LASTS_S, FULL_SHARE
from ..safety import STOP_C
from ..units import HOUR_S, MINUTE_S
from ..wording import duration
from .alarms import RULES, hot_c, stop_c
from .pack_lane import LOW_LASTS_S, low_since_s
from .seen import Alarm, Key, Rule, Seen

UNATTENDED_S = 20 * MINUTE_S
"""After so long under load a person is reminded to stay by a pack of which nothing is known (own choice)."""


def _hot(seen: Seen, on: bool) -> Alarm | None:
    if (celsius := hot_c(seen, on)) is None:
        return None
    return Alarm(
        "hot", "warn", f"{celsius:.1f} °C at the pack",
        f"Stay by it; take the load or the cord off at {STOP_C:g} °C, or when you cannot hold it.",
    )  # fmt: skip


def _stop(seen: Seen, on: bool) -> Alarm | None:
    if (celsius := stop_c(seen, on)) is None:
        return None
    return Alarm(
        "stop", "stop", f"{celsius:.1f} °C at the pack",
        "Take the load or the cord off; let it cool on something that does not burn. Swelling, smell, smoke, hiss: keep"
        " away, and do not charge it again.",
    )  # fmt: skip


def _output_off(seen: Seen, on: bool) -> Alarm | None:
    if seen.kind != "load" or seen.placed_s is None:
        return None
    later = seen.time_s > seen.placed_s
    since = low_since_s(seen.time_s[later], seen.watts[later])
    if since is None or seen.now_s - since < LOW_LASTS_S:
        return None
    return Alarm(
        "output off", "note", f"the output went off {duration(seen.now_s - since)} ago",
        "Empty: end the lane. Protection or sleep: note how it comes back, as “back by button”, and go on.",
    )  # fmt: skip


def _pack_full(seen: Seen, on: bool) -> Alarm | None:
    if seen.kind != "recharge" or seen.placed_s is None:
        return None
    later = seen.time_s > seen.placed_s
    since = low_since_s(seen.time_s[later], seen.watts[later], FULL_SHARE)
    if since is None or seen.now_s - since < FULL_LASTS_S:
        return None
    return Alarm(
        "pack full", "note", f"full since {duration(seen.now_s - since)}", "End the lane; unplug it from the adapter."
    )


def _unattended(seen: Seen, on: bool) -> Alarm | None:
    """Nobody measures how warm it is: said once, while the first hour of a discharge or a recharge runs."""
    if seen.placed_s is None or seen.probed or len(seen.heat_s):
        return None
    since = seen.now_s - seen.placed_s
    if not UNATTENDED_S <= since <= HOUR_S:
        return None
    return Alarm(
        "unattended", "note", "nobody measures how warm it is",
        "Feel it now and then, as 41c; never leave an unknown pack alone. Swelling, smell, hiss: take it off.",
    )  # fmt: skip


PACK_RULES: dict[Key, Rule] = {
    "stop": _stop, "hot": _hot, "output off": _output_off, "pack full": _pack_full, "unattended": _unattended,
    **{key: RULES[key] for key in ("meter silent", "probe silent", "socket silent", "room silent")},
}  # fmt: skip


def pack_watch(seen: Seen, on: frozenset[str] = frozenset()) -> list[Alarm]:
    """The alarms of a lane of a pack alone at this moment. on : keys of those that are on."""
    return [alarm for key, rule in PACK_RULES.items() if (alarm := rule(seen, key in on)) is not None]
