"""The core's rules for the pages, as TypeScript: `make types` writes it, a test holds that it is current."""

import json
from collections.abc import Mapping
from typing import get_args

from jaunecharge.core.bench import POSITIONS
from jaunecharge.core.factors import NO_CASE, SHORT, WIRED
from jaunecharge.core.milestones import MILESTONES
from jaunecharge.core.noise import NO_DIFFERENCE
from jaunecharge.core.packs import MODES, Restart
from jaunecharge.core.reading import CAUSES, MOVED_ABOUT, NO_DIP
from jaunecharge.core.safety import THRESHOLDS_C, WARN_C
from jaunecharge.formats.drawings.scale import (
    COLOUR_STOPS,
    FULL_PACE,
    HEAT_STOPS,
    LABEL_ROOM_PX,
    LEAST_HALF_PX,
    UNMEASURED,
)


def rules() -> Mapping[str, tuple[str, object]]:
    """Each constant by its name: what it is, and its value."""
    return {
        "MILESTONES": ("Percentages at which times are told.", MILESTONES),
        "THRESHOLDS_C": ("Temperatures at or above which minutes are counted, °C.", THRESHOLDS_C),
        "WARN_C": ("From here on a person is warned, °C.", round(WARN_C)),
        "POSITIONS": ("Where a temperature is read.", POSITIONS),
        "NO_CASE": ("A phone without a case.", NO_CASE),
        "NO_CASE_SAID": ("The same in words.", SHORT[NO_CASE]),
        "WIRED": ("What stands in a charger's place where there is none.", WIRED),
        "CAUSES": (
            "What takes power away, as listed; byHeat: the phone protects itself; offCoil: it has left the coil.",
            {name: {"words": c.words, "byHeat": c.by_heat, "offCoil": c.off_coil} for name, c in CAUSES.items()},
        ),
        "NO_DIFFERENCE": ("What is said of a difference that does not exceed its noise.", NO_DIFFERENCE),
        "MOVED_ABOUT": ("How a phone lies that was moved about until it drew the most.", MOVED_ABOUT),
        "PACK_MODES": ("Modes that an output of a pack can show.", MODES),
        "RESTARTS": ("Ways in which an output that went off came back.", [r for r in get_args(Restart) if r]),
        "HEAT_STOPS": ("The heat scale: °C and colour, its lightness falling steadily.", HEAT_STOPS),
        "UNMEASURED": ("Fill of a ribbon where nobody measured.", UNMEASURED),
        "COLOUR_STOPS": ("Stops of a ribbon's colour at most.", COLOUR_STOPS),
        "LEAST_HALF_PX": ("Half the height of a band at least, pixels.", LEAST_HALF_PX),
        "LABEL_ROOM_PX": ("Pixels between two labels of ticks at least.", LABEL_ROOM_PX),
        "FULL_PACE": ("Points a minute at which the band of a run without a meter is as high as it may be.", FULL_PACE),
        "NO_DIP": ("What a reader says of a stretch that was no dip.", NO_DIP),
    }


def script() -> str:
    """All of it, as it is written to `web/src/api/rules.ts`."""
    parts = ["// Made from the core by `make types`: not to be edited."]
    for name, (about, value) in rules().items():
        written = json.dumps(value, ensure_ascii=False, indent=2 if isinstance(value, dict) else None)
        parts.append(f"/** {about} */\nexport const {name} = {written} as const")
    return "\n\n".join(parts) + "\n"


if __name__ == "__main__":
    print(script(), end="")
