"""Arrays of figures and of truths, as all of the core gives and takes them."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
