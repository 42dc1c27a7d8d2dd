"""Who may reach the application: this machine alone, or others on the network as well."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Network:
    """How the application is reached.

    reachable : whether it listens on the network; secure : whether what is sent cannot be read there; address : where
    others find it, empty where they do not.
    """

    reachable: bool = False
    secure: bool = True
    address: str = ""
