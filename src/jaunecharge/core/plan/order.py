"""In which order the runs of a plan are made, and why: warmth, time of day and drift must not pass for a charger."""

import random
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

OrderRule = Literal["randomised", "balanced", "as listed"]
ORDERS: tuple[tuple[OrderRule, str], ...] = (
    ("randomised", "drawn by lot in rounds, each chain once a round: warmth and time of day spread by chance"),
    ("balanced", "each chain at each place of the round in turn, over phones and rounds: for few runs"),
    ("as listed", "as the matrix has it: only where the order does not matter, or is the question"),
)


@dataclass(frozen=True)
class Turn:
    """One run of a phone: the key of its cell, which repeat it is, and whether it only repeats the first."""

    phone: str
    key: str
    repeat: int
    closing: bool = False


@dataclass(frozen=True)
class Order:
    """The runs of each phone in order, and the reason."""

    turns: tuple[tuple[Turn, ...], ...]
    why: str


def ordered(
    phones: Sequence[tuple[str, Sequence[str]]], repeats: int, rule: OrderRule, seed: int, close: bool
) -> Order:
    """The order of the runs of a plan.

    Parameters
    ----------
    phones : sequence of (phone, keys of its cells)
    repeats : int
        Rounds, in each of which every cell is run once.
    rule : OrderRule
    seed : int
        Of the lot; kept, so that the order can be drawn again.
    close : bool
        Whether the first chain of each phone is repeated at the end, to see drift.
    """
    lot = random.Random(seed)
    turns = []
    for number, (phone, keys) in enumerate(phones):
        if not keys:
            continue
        square = _balanced_rows(len(keys)) if rule == "balanced" else []
        labels = list(keys)
        if rule == "balanced":
            random.Random(seed).shuffle(labels)
        own: list[Turn] = []
        for round_number in range(repeats):
            if rule == "randomised":
                this = lot.sample(list(keys), len(keys))
                # Drawn again where a round would begin with what the last one ended with: its charger would be warm.
                while len(keys) > 1 and own and this[0] == own[-1].key:
                    this = lot.sample(list(keys), len(keys))
            elif rule == "balanced":
                this = [labels[i] for i in square[(number * repeats + round_number) % len(square)]]
            else:
                this = list(keys)
            own += [Turn(phone, key, round_number + 1) for key in this]
        if close and len(keys) > 1:
            own.append(Turn(phone, own[0].key, repeats + 1, closing=True))
        turns.append(tuple(own))
    return Order(tuple(turns), _why(rule, seed, repeats, close))


def _balanced_rows(n: int) -> list[list[int]]:
    """Orders in which each of n stands equally often at each place and after each other (Williams, 1949, from memory).

    For an even n the n rows suffice; for an odd one their mirror images follow.
    """
    first = [0]
    low, high = 1, n - 1
    while len(first) < n:
        first.append(low if len(first) % 2 else high)
        low, high = (low + 1, high) if len(first) % 2 == 0 else (low, high - 1)
    rows = [[(x + shift) % n for x in first] for shift in range(n)]
    return rows if n % 2 == 0 else rows + [row[::-1] for row in rows]


def _why(rule: OrderRule, seed: int, repeats: int, close: bool) -> str:
    rounds = "one round" if repeats == 1 else f"{repeats} rounds"
    text = {
        "randomised": f"Order drawn by lot in {rounds}, seed {seed}, so that warmth and time of day fall on all alike.",
        "balanced": f"Order balanced over {rounds} and the phones, seed {seed}: each chain early and late in turn.",
        "as listed": f"Order as listed, {rounds}: whatever drifts during the day falls on the last chains.",
    }[rule]
    closing = " The first chain of each phone comes again at the end, to see drift." if close else ""
    return text + closing
