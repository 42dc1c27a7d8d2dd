"""Ports for processes that are started a while after they are chosen."""

import random
import socket

CHOSEN = range(20_000, 32_000)
"""Below those that the kernel gives to connections and to whoever asks for any (32,768 on)."""


def free_port() -> int:
    """A port of this machine on which nothing listens, and which nobody is given unasked."""
    chance = random.SystemRandom()
    while True:
        port = chance.choice(CHOSEN)
        with socket.socket() as probe:
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return port
