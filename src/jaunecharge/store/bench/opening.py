"""A lane made ready to be opened: from a slot of a plan, or on the spot; with what to expect of it."""

import uuid
from collections.abc import Mapping
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.bench import LaneKind, around_lane, gain_after, outlook
from ...core.chain import Chain, chain_of_kit
from ...core.errors import CannotRead
from ...core.factors import NAMES, WIRED
from ...core.kit import ROLES, Kit, Meter, Pack, Phone, Probe, Role, role_of
from ...core.labels import label
from ...core.packs import method_named
from ...core.plan import Card, run_said
from ...documents.case import Case
from ...documents.expectation import Expectation
from .. import models as m
from ..bench_models import Lane, MeterCheck
from ..kit import by_label, fitted_of, item_of, shelf
from ..packs import pack_of
from ..plan.cards import card_named
from ..plan.plans import get_plan
from ..plan.slots import find_slot
from .checks import latest_check
from .lanes import NewLane


def lane_from_slot(session: Session, slot_id: uuid.UUID, **more: Any) -> NewLane:
    """A lane for a run of a plan: everything is known from there.

    Raises
    ------
    NotThere, CannotRead
    """
    slot = find_slot(session, slot_id)
    if slot.state not in {"planned", "draining", "drained", "running"} or slot.run_id is not None:
        raise CannotRead("that run of the plan is over, or void", "start another one", file="slot")
    plan = get_plan(session, slot.plan_id)
    return lane(
        session, dict(slot.factors), slot.card or plan.card, slot.expected.ambient_c,
        run_said(slot.phone, slot.said), slot_id=slot_id, **more,
    )  # fmt: skip


def lane_on_the_spot(
    session: Session, factors: dict[str, str], card_name: str, ambient_c: float | None = None, **more: Any
) -> NewLane:
    """A lane for what a person says it is: kit by label, on the shelf or not, and a method card by its name.

    Raises
    ------
    CannotRead
        If no phone is named, or the card is not known.
    """
    stated = {name: label(text, name) for name, text in factors.items() if name in NAMES and text.strip()}
    if "phone" not in stated:
        raise CannotRead("no phone is named", "say which phone it is", file="phone")
    card = card_named(session, card_name)
    if card is None:
        raise CannotRead(f"there is no method card “{card_name}”", "choose one of the cards", file="card")
    charger = stated.get("charger", "")
    title = f"{stated['phone']} by wire" if charger in {"", WIRED} else f"{stated['phone']} on {charger}"
    return lane(session, stated, card, ambient_c, title, **more)


def lane(
    session: Session, factors: dict[str, str], card: Card, ambient_c: float | None, title: str,
    meter: str = "", probe: str = "", socket: str = "", room: str | None = None, **more: Any,
) -> NewLane:  # fmt: skip
    """A lane with what to expect of its chain, and its instruments by label; the room's is the bench's if not named."""
    used = {name: item_of(piece) for name, text in factors.items() if (piece := by_label(session, text)) is not None}
    phone = used.get("phone")
    chain = chain_of_kit(used, factors.get("place", "")) if _all_known(factors, used) else None
    hung = _hung(session, more, meter=meter, probe=probe, socket=socket, room=room)
    kind, pack = kind_of(used, factors)
    return NewLane(
        label=title,
        kind=kind,
        pack=pack,
        factors={**factors, "method": card.name},
        card=card,
        case=stated_case(used, ambient_c, hung, latest_check(session, meter)),
        chain=expectation(session, chain, phone, card, factors, ambient_c),
        **more,
    )


def _hung(session: Session, more: dict[str, Any], room: str | None, **labels: str) -> dict[Role, Kit | None]:
    """The instruments of a lane by their labels; these and their addresses go into `more`."""
    labels["room"] = room_sensor(session) if room is None else room
    hung: dict[Role, Kit | None] = {role: _item(session, labels[role]) for role in ROLES}
    for role, item in hung.items():
        more[role] = labels[role]
        more.setdefault(f"{role}_address", item.address if isinstance(item, Meter | Probe) else "")
    return hung


def room_sensor(session: Session) -> str:
    """Label of what measures the room of the bench: that of the lane opened last, else the only one that answers."""
    labels = [
        item.label
        for item in (item_of(piece) for piece in shelf(session))
        if role_of(item) == "room" and isinstance(item, Probe) and item.address
    ]
    last = session.scalar(select(Lane.room).where(Lane.room != "").order_by(Lane.opened_at.desc()).limit(1))
    if last in labels:
        return last
    return labels[0] if len(labels) == 1 else ""


def kind_of(used: dict[str, Kit], factors: dict[str, str]) -> tuple[LaneKind, str]:
    """Kind of a phone's lane, and what gives: a pack or a phone in the charger's place, a pack in the adapter's."""
    charger = used.get("charger")
    if isinstance(charger, Phone):
        return "phone to phone", charger.label
    for piece in (charger, used.get("adapter")):
        if isinstance(piece, Pack):
            return "pack charge", piece.label
    return "charge", ""


def lane_of_pack(
    session: Session, kind: LaneKind, pack_label: str, card_name: str, ambient_c: float | None = None,
    meter: str = "", probe: str = "", socket: str = "", room: str | None = None, **more: Any,
) -> NewLane:  # fmt: skip
    """A lane of a pack alone: under load, or being filled.

    Raises
    ------
    CannotRead
        If the card is not known.
    NotThere
        If there is no such pack on the shelf.
    """
    pack = pack_of(session, pack_label)
    method = method_named(card_name, "load" if kind == "load" else "recharge")
    if method is None:
        raise CannotRead(f"there is no method “{card_name}” for that", "choose one of the methods", file="card")
    card = Card(name=method.name, good_for=" ".join(method.steps), interval_min=method.interval_min)
    hung = _hung(session, more, meter=meter, probe=probe, socket=socket, room=room)
    title = f"{pack.label} under load" if kind == "load" else f"{pack.label} being filled"
    return NewLane(
        label=title, kind=kind, pack=pack.label, factors={"method": card.name}, card=card,
        case=stated_case({}, ambient_c, hung, latest_check(session, meter)),
        chain=Expectation(rated_wh=pack.rated_wh), **more,
    )  # fmt: skip


def chain_of_labels(session: Session, factors: dict[str, str]) -> Chain | None:
    """The chain that factors name, with the kit on the shelf; None where phone or charger is not there."""
    used = {name: item_of(piece) for name, text in factors.items() if (piece := by_label(session, text)) is not None}
    return chain_of_kit(used, factors.get("place", "")) if _all_known(factors, used) else None


def _item(session: Session, text: str) -> Kit | None:
    piece = by_label(session, text) if text else None
    return None if piece is None else item_of(piece)


def _all_known(factors: dict[str, str], used: dict[str, Kit]) -> bool:
    """Whether phone and charger are on the shelf, so that anything can be expected of them."""
    return "phone" in used and (factors.get("charger", "") in {"", WIRED} or "charger" in used)


def stated_case(
    used: dict[str, Kit], ambient_c: float | None, hung: Mapping[Role, Kit | None], checked: MeterCheck | None = None
) -> Case:
    """Conditions of a run of this kit: battery, claim, room and meters."""
    meter, socket = hung.get("meter"), hung.get("socket")
    phone, charger = used.get("phone"), used.get("charger")
    stated: dict[str, Any] = {"ambient_c": ambient_c, "claimed_w": getattr(charger, "claimed_w", None)}
    if isinstance(phone, Phone):
        stated |= {
            "capacity_mah": phone.capacity_mah, "nominal_v": phone.nominal_v, "battery_health": phone.battery_health,
        }  # fmt: skip
    if isinstance(meter, Meter):
        gain = (
            meter.gain_percent if checked is None else gain_after(checked.deviation_percent, checked.expanded_percent)
        )
        known = None if gain is None else round(gain, 4)
        stated["meter"] = {"gain_percent": known, "counts_v": meter.counts_v, "counts_a": meter.counts_a}
    if isinstance(socket, Meter):
        stated["socket_meter"] = {name: getattr(socket, name) for name in ("gain_percent", "counts_v", "counts_a")}
    return Case.model_validate({name: value for name, value in stated.items() if value is not None})


def expectation(
    session: Session, chain: Chain | None, phone: Kit | None, card: Card, factors: dict[str, str],
    ambient_c: float | None,
) -> Expectation:  # fmt: skip
    """Outlook of a chain; nothing where it is not known."""
    if chain is None or phone is None:
        return Expectation()
    around = around_lane(card, factors.get("airflow", ""), factors.get("phone_state", ""), ambient_c)
    piece: m.Kit | None = by_label(session, phone.label)
    return Expectation.of(outlook(chain, around, None if piece is None else fitted_of(piece)))
