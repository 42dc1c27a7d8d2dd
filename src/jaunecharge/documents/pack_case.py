"""The case of a load test: the rating of the pack, and what logged it."""

from pydantic import Field

from ..core.packs import Rating, rating
from .case import Meter
from .document import Document


class PackCase(Document):
    """The rating of a pack, and the accuracy of what logged its load; what is not known here is ignored."""

    rated_mah: float | None = Field(None, description="capacity that is printed, mAh")
    cell_volts: float | None = Field(None, description="voltage of its cells, V")
    meter: Meter = Field(default_factory=Meter)

    def rating(self) -> Rating:
        """The same for the core.

        Raises
        ------
        CannotRead
            If mAh or volts are missing or none: mAh say nothing of energy without their voltage.
        """
        return rating(self.rated_mah, self.cell_volts)
