"""Arrays of figures and of truths, as all of the core gives and takes them."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]


def row_dots(a: Array, b: Array) -> Array:
    """Inner product of each row of `a` : (m, n) with that of `b` : (m, n), or with `b` : (n,); to the last bit what it
    is row by row, which a sum over an axis is not."""
    return np.array([x @ (b if b.ndim == 1 else b[i]) for i, x in enumerate(a)])
