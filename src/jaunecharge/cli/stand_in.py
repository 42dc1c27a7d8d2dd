"""`jaunecharge stand-in`: a simulated meter, probe and phone, for those who have none at hand."""

import signal
import threading
import time
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..core.errors import CannotRead
from .app import command
from .parts import USUAL_PHONE_MAH, USUAL_PHONE_V, printed_adapter, printed_charger, printed_phone

if TYPE_CHECKING:
    from ..instruments.playback import Playback

ROLES = ("meter", "probe", "both")
KINDS = ("charge", "pack", "phone", "serial", "plug")


@command("stand-in")
def stand_in(
    kind: Annotated[
        str,
        typer.Option(
            help="charge; pack (on a load); phone (that reports itself); serial (a meter on a port); plug (over MQTT)"
        ),
    ] = "charge",
    role: Annotated[str, typer.Option(help="meter, probe or both, at one address")] = "both",
    port: Annotated[int, typer.Option(help="of this machine; any free one if 0", min=0, max=65535)] = 0,
    speed: Annotated[float, typer.Option(help="how many times as fast as the clock", min=1, max=120)] = 60.0,
    fault: Annotated[
        list[str] | None,
        typer.Option(help="a fault, when and how long: silence@600+120; or garbage, lag, drop, restart, clock"),
    ] = None,
    place_after: Annotated[float | None, typer.Option(help="place the phone by itself after so many seconds")] = None,
    rated_mah: Annotated[float, typer.Option(help="of a pack: what is printed, mAh", min=100, max=1_000_000)] = 10_000,
    cell_volts: Annotated[float, typer.Option(help="of its cells, V", min=1, max=60)] = 3.7,
    load: Annotated[str, typer.Option(help="of a pack: 2A, 10W, 5OHM; or steps: it rises until it lets go")] = "2A",
    lets_go: Annotated[float, typer.Option(help="the pack's protection, A", min=0.1, max=30)] = 3.6,
    adapter: Annotated[str, typer.Option(help='what it offers: "5V3A,9V2.22A" or "20W"')] = "20W",
    charger: Annotated[str, typer.Option(help="profiles that it gives")] = "mpp",
    phone: Annotated[str, typer.Option(help="profiles that it takes")] = "mpp",
    capacity_mah: Annotated[float, typer.Option(help="the phone's battery, mAh")] = USUAL_PHONE_MAH,
    start_percent: Annotated[float, typer.Option(help="battery level at placing", min=0, max=99)] = 10.0,
    ambient_c: Annotated[float, typer.Option(help="the room, °C", min=-10, max=50)] = 25.0,
    seed: Annotated[int, typer.Option(help="of the noise", min=0)] = 1,
    lane: Annotated[str, typer.Option(help="a lane to which the phone reports: its id")] = "",
    token: Annotated[str, typer.Option(help="the token of that lane, as in its code")] = "",
    server: Annotated[str, typer.Option(help="where the bench is served")] = "http://127.0.0.1:8417",
    trust: Annotated[
        Path | None, typer.Option(help="the certificate of the bench, where it was answering by hand (serve --tls)")
    ] = None,
    broker: Annotated[str, typer.Option(help="of a plug: where it publishes, as mqtt://127.0.0.1/plug")] = "",
    speaks: Annotated[str, typer.Option(help="of a meter on a serial port: csv or scpi")] = "csv",
    push: Annotated[str, typer.Option(help="what is pushed to the lane: percent, meter or probe")] = "percent",
) -> None:
    from ..core.chain import Chain
    from ..core.simulator import Circumstances, PackScenario, prepare, program_of
    from ..instruments.faults import fault as ordered
    from ..instruments.pack_playback import PackPlayback, load_of
    from ..instruments.playback import Playback
    from ..instruments.posting import Poster
    from ..instruments.pusher import SAYS, Pusher
    from ..instruments.reporting_phone import ReportingPhone
    from ..instruments.standins import StandIn

    if role not in ROLES:
        raise CannotRead(f"“{role}” is no role of a stand-in", f"one of {', '.join(ROLES)}", file="--role")
    if push not in SAYS:
        raise CannotRead(f"“{push}” is not pushed", f"one of {', '.join(SAYS)}", file="--push")
    if kind not in KINDS:
        raise CannotRead(f"“{kind}” is not played", f"one of {', '.join(KINDS)}", file="--kind")
    if speaks not in ("csv", "scpi"):
        raise CannotRead(f"“{speaks}” is not spoken", "csv or scpi", file="--speaks")
    if kind == "phone" and not token:
        raise CannotRead("a phone that reports needs a lane", "give the token of its code: --token", file="--token")
    chain = Chain(
        printed_adapter(adapter), None, printed_charger(charger, "", None),
        printed_phone(phone, None, False, capacity_mah, USUAL_PHONE_V),
    )  # fmt: skip
    faults = tuple(ordered(f) for f in fault or [])
    playback: Playback | PackPlayback
    if kind == "pack":
        pack = PackScenario(rated_mah, cell_volts, lets_go_a=lets_go, ambient_c=ambient_c)
        program = program_of(pack, True) if load == "steps" else [(0.0, load_of(load))]
        playback = PackPlayback(pack, program, time.monotonic, speed, seed)
    else:
        scenario = prepare(chain, Circumstances(start_percent=start_percent, ambient_c=ambient_c)).scenario
        playback = Playback(scenario, time.monotonic, speed, seed)
    over = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: over.set())
    if kind == "plug" and isinstance(playback, Playback):
        _at_a_socket(playback, broker, place_after, over)
        return
    if kind == "serial" and isinstance(playback, Playback):
        _on_a_port(playback, speaks, place_after, over)
        return
    try:
        answering = StandIn(playback, role, port, faults, seed).start()  # type: ignore[arg-type]
    except OSError as error:
        raise CannotRead(f"port {port} is taken", "name another, or 0 for any that is free", file="--port") from error
    typer.echo(answering.address)
    pusher: Pusher | ReportingPhone | None = None
    if kind == "phone" and isinstance(playback, Playback):
        pusher = ReportingPhone(playback, Poster(server, trust), token, faults=faults).start()
    elif lane and isinstance(playback, Playback):
        pusher = Pusher(playback, server, lane, token, push, faults=faults, every_s=0.25, trusts=trust).start()
    if place_after is not None and not over.wait(place_after):
        playback.place()
    over.wait()
    if pusher is not None:
        pusher.stop()
    answering.stop()


def _on_a_port(playback: "Playback", speaks: str, place_after: float | None, over: threading.Event) -> None:
    """Play on a pseudo-terminal until the end."""
    from ..instruments.serial_standin import SerialStandIn

    port = SerialStandIn(playback, "scpi" if speaks == "scpi" else "csv").start()
    typer.echo(port.address)
    if place_after is not None and not over.wait(place_after):
        playback.place()
    over.wait()
    port.stop()


def _at_a_socket(playback: "Playback", broker: str, place_after: float | None, over: threading.Event) -> None:
    """Publish until the end."""
    from ..core.kit import Mqtt, address_of
    from ..instruments.errors import NotReached
    from ..instruments.plug import Plug

    where = address_of(broker)
    if not isinstance(where, Mqtt):
        raise CannotRead(f"“{broker}” is no broker with a topic", "as mqtt://127.0.0.1/plug", file="--broker")
    try:
        plug = Plug(playback, where).start()
    except NotReached as error:
        raise CannotRead(str(error), "start one, or name another", file="--broker") from error
    typer.echo(f"{where.said.partition('?')[0]}?watts=power&at=time")
    if place_after is not None and not over.wait(place_after):
        playback.place()
    over.wait()
    plug.stop()
