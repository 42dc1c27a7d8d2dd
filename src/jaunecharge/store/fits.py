"""A phone on the shelf fitted to a stored run, with the chain and the circumstances that the run states."""

from typing import Any

from ..core.chain import chain_of_kit
from ..core.errors import CannotRead
from ..core.forecast import FitResult, fit_phone
from ..core.kit import Phone
from ..core.reading import Reading
from ..core.simulator import Circumstances, known_airflow, known_state
from ..core.wording import an
from ..documents.kit import kit_of
from . import models as m
from .kit import item_of


def fit_to_run(piece: m.Kit, run: m.Run, reading: Reading) -> FitResult:
    """Fit a phone's figures to a measured run.

    Raises
    ------
    CannotRead
        If the kit is no phone, the run is simulated or of an unknown charger, or there is too little to fit to.
    """
    phone = item_of(piece)
    if not isinstance(phone, Phone):
        raise CannotRead(f"“{phone.label}” is {an(phone.kind)}", "only phones are fitted to runs", file="kit")
    case = run.case
    if case.simulated:
        mend = "fit to a measured run: this one only gives back what it was made from"
        raise CannotRead("the run is simulated", mend, file="run")
    used = {name: kit_of(_facts(item)) for name, item in run.kit.items() if name != "phone"}
    chain = chain_of_kit({**used, "phone": phone})
    if chain is None or chain.charger is None:
        raise CannotRead("the run's charger is not on the shelf", "add it under the label that the run gives it", "run")
    around = Circumstances(
        airflow=known_airflow(run.factors.get("airflow", "")),
        phone_state=known_state(run.factors.get("phone_state", "")),
        ambient_c=case.ambient_c if case.ambient_c is not None else 25.0,
    )
    return fit_phone(reading, chain, around, run.label)


def _facts(facts: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in facts.items() if name not in {"id", "revision"}}
