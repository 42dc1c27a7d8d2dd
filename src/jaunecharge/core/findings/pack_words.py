"""Packs in a finding: what each gives of what it promises, and how many charges of which phone."""

from collections.abc import Sequence

from ..packs.rating import is_good, share_of_rated_mah
from ..wording import share
from .material import Material, PackSeen
from .telling import FindingSentence, Stated, Telling, listed, strong


def pack_sentences(material: Material) -> list[FindingSentence]:
    """A sentence for each pack, and one for each phone that several packs charged."""
    return [*(_pack(p) for p in material.packs), *_side_by_side(material.packs)]


def _pack(pack: PackSeen) -> FindingSentence:
    tell, found = Telling(), pack.found
    parts = []
    delivered = found.delivered
    if delivered is not None:
        part = delivered.value / pack.rated.wh
        half = None if delivered.stated is None else delivered.stated / pack.rated.wh
        text = share(part) if half is None else f"{part * 100:.0f} ± {half * 100:.0f} %"
        how = f"{delivered.value:.1f} Wh delivered in its load test ÷ {pack.rated.wh:.1f} Wh rated."
        figure = Stated(
            f"pack|{pack.label}|yield".casefold(), text, "share", part * 100.0, "%",
            None if half is None else (part - half) * 100.0, None if half is None else (part + half) * 100.0,
            (pack.label,), how,
        )  # fmt: skip
        least = "at least " if found.at_least else ""
        parts.append(f"gives {least}{tell(figure)} of its rated energy")
        if not found.at_least and not is_good(delivered.value, pack.rated):
            mah = share_of_rated_mah(delivered.value, pack.rated)
            poor = Stated(
                f"pack|{pack.label}|mah".casefold(), share(mah), "share", mah * 100.0, "%", of=(pack.label,),
                how="Delivered Wh ÷ 5 V against the mAh that are printed; half and more is good (common practice).",
            )  # fmt: skip
            parts.append(f"*less than it promises*: {tell(poor)} of its mAh at 5 V, where half is good")
    for one in found.charges:
        if not one.phone:
            continue
        low, high = one.charges.low, one.charges.high
        text = f"{one.charges.value:.1f}" if high - low < 0.1 else f"{low:.1f} to {high:.1f}"
        if high == float("inf"):
            text = f"{low:.1f} or more"
        figure = Stated(
            f"pack|{pack.label}|{one.phone}|{one.way}".casefold(), text, "charges", one.charges.value, "charges", low,
            None if high == float("inf") else high, (pack.label,),
            "Points that the phone gained ÷ points that the pack lost; its gauge bounds it.",
        )  # fmt: skip
        parts.append(f"{tell(figure)} charges of {strong(one.phone)} by {one.way}")
    if not parts:
        parts.append("*not tested yet*")
    return tell.sentence(f"pack|{pack.label}".casefold(), f"{strong(pack.label)}: {'; '.join(parts)}")


def _side_by_side(packs: Sequence[PackSeen]) -> list[FindingSentence]:
    """For each phone that several packs charged by coil: which charges it more often, where the ranges are apart."""
    phones: dict[str, list[tuple[PackSeen, float, float]]] = {}
    names: dict[str, str] = {}
    for pack in packs:
        for one in pack.found.charges:
            if one.phone:
                key = f"{one.phone.casefold()}|{one.way}"
                names[key] = f"{strong(one.phone)} by {one.way}"
                phones.setdefault(key, []).append((pack, one.charges.low, one.charges.high))
    sentences = []
    for key, own in phones.items():
        if len(own) < 2:
            continue
        best = max(own, key=lambda x: x[1])
        others = [x for x in own if x is not best]
        if all(best[1] > x[2] for x in others):
            rest = listed([strong(o[0].label) for o in others])
            words = f"{strong(best[0].label)} charges {names[key]} more often than {rest}"
        else:
            ranges = listed([strong(o[0].label) for o in own])
            words = f"Which charges {names[key]} more often *cannot be told*: the ranges of {ranges} overlap"
        sentences.append(FindingSentence(f"packs|{key}", words))
    return sentences
