"""Outlook of a lane before it runs: its forecast, the least watts of its chain, the volts."""

from dataclasses import dataclass

from ..chain.check import Chain
from ..forecast.chain_forecast import forecast
from ..kit.items import OWN_SOURCE
from ..plan.expected import ribbon_of
from ..plan.method import Card
from ..reading.ribbon import Ribbon
from ..simulator.circumstances import Circumstances, known_airflow, known_state
from ..simulator.fitted import Fitted
from ..simulator.scenario import prepare
from ..simulator.simulate import simulate
from ..units import MINUTE_S
from .finish_time import Curve

LEAST_MIN = 20.0


@dataclass(frozen=True)
class Outlook:
    """Outlook of a lane.

    curve : the forecast; ribbon : its outline; least_w [W] : the least that the chain should draw at the meter;
    class_w [W] : what charger and phone agree on, None by wire; volts [V] : to be negotiated, None where unknown;
    adapter_w [W] : the adapter's most; own_source : whether the charger feeds itself.
    """

    curve: Curve
    ribbon: Ribbon
    least_w: float
    class_w: float | None
    volts: float | None
    adapter_w: float | None
    own_source: bool


def around_lane(card: Card, airflow: str, phone_state: str, ambient_c: float | None) -> Circumstances:
    """Circumstances of a lane: what it states itself as far as the model knows it, else what its card says."""
    base = card.around()
    return Circumstances(
        start_percent=base.start_percent,
        ambient_c=base.ambient_c if ambient_c is None else ambient_c,
        airflow=known_airflow(airflow, base.airflow),
        phone_state=known_state(phone_state, base.phone_state),
        interval_min=base.interval_min,
        tail_min=base.tail_min,
    )


def outlook(chain: Chain, around: Circumstances, fitted: Fitted | None = None) -> Outlook:
    """Outlook of a chain.

    Raises
    ------
    CannotRead
        If the circumstances cannot be.
    """
    prediction = forecast(chain, around, fitted)
    prepared = prepare(chain, around, None, fitted, prediction.checked)
    charge = simulate(prepared.scenario)
    minutes = max(LEAST_MIN, (len(charge.power_w) - prepared.scenario.placed_s) / MINUTE_S)
    checked = prediction.checked
    fed = chain.charger is None or chain.charger.form not in OWN_SOURCE
    offered = next((link.watts for link in checked.links if link.link == "adapter"), None)
    return Outlook(
        curve=Curve(prediction.minutes, prediction.least, prediction.likely, prediction.most),
        ribbon=ribbon_of(charge, minutes),
        least_w=checked.meter_w.low,
        class_w=None if checked.agreement is None else checked.agreement.watts,
        volts=(checked.deal.volts or None) if fed and chain.adapter is not None else None,
        adapter_w=offered if chain.adapter is not None else None,
        own_source=not fed,
    )
