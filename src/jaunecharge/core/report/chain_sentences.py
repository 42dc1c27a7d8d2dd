"""Sentences on the energy along a run's chain."""

from ..reading.along_chain import AlongChain, Passage
from ..reading.read_run import Reading
from ..wording import duration, plus_minus, share
from .sentence import Sentence

REACHED = {"meter": "the meter", "phone": "the phone, as it says itself", "battery": "the battery"}


def chain_sentences(reading: Reading) -> list[Sentence]:
    """Sentences on how far the socket's energy came, or on the phone's own figure against the meter's."""
    found = reading.along
    if found is None:
        return []
    wrong = next((p for p in found.passages if p.contradicts), None)
    if wrong is not None:
        return [_contradiction(found, wrong)]
    if (socket := found.energy("socket")) is not None:
        reached = ", ".join(f"{e.value:.1f} Wh reached {REACHED[p]}" for p, e in found.energies[1:])
        last = found.whole or found.passages[-1]
        through = plus_minus(last.share, "%", 100.0)
        return [_sentence(reading, found, f"*{through}* of *{socket.value:.1f} Wh* from the socket: {reached}", last)]
    told = found.passage("meter", "phone")
    if told is None:
        return []
    text = f"By its own word the phone got *{share(told.share.value)}* of what the meter saw"
    return [_sentence(reading, found, text, told)]


def _sentence(reading: Reading, found: AlongChain, text: str, passage: Passage) -> Sentence:
    account = reading.account
    window = (
        f"from {account.from_percent:g} to {account.to_percent:g} %, " if found.energy("battery") and account else ""
    )
    basis = [f"{window}{duration(found.end_s - found.start_s)}"]
    if not passage.share.parts:
        basis.append("the phone's own figure" if passage.own_word else "a meter's accuracy is not known, so no ±")
    key = f"{passage.start}_to_{passage.end}"
    return Sentence(key, text, "; ".join(basis), found.start_s, found.end_s, key)


def _contradiction(found: AlongChain, passage: Passage) -> Sentence:
    before, after = found.energy(passage.start), found.energy(passage.end)
    assert before is not None and after is not None
    names = {"socket": "The meter at the socket", "meter": "The inline meter", "phone": "The phone"}
    later = {"meter": "the inline meter", "phone": "the phone itself", "battery": "the battery's account"}[passage.end]
    return Sentence(
        "contradiction",
        f"{names[passage.start]} shows *{before.value:.1f} Wh*, {later} *{after.value:.1f} Wh*: one is wrong",
        "more cannot come out than went in; check the meters, the battery's capacity, and that it is one chain",
        found.start_s,
        found.end_s,
        f"{passage.start}_to_{passage.end}",
    )
