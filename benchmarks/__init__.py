"""Figures that are asked for, measured beside their yardsticks."""

import warnings

# The test client of the web framework asks for the next version of its own client: nothing that a figure hangs on.
warnings.filterwarnings("ignore", message="Using `httpx` with")
