"""One line of what was measured: what, the figure, what stands beside it, what is allowed, and whether it holds."""


def line(what: str, found: str, yardstick: str, allowed: str, holds: bool) -> None:
    print(f"{what:44} {found:>12}   {yardstick:34} {allowed:>14}   {'holds' if holds else 'EXCEEDED'}", flush=True)
