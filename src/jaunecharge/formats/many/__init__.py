"""Many runs in one file: wide tables, a row a run, a column that names the run, a sheet a run, a log of several."""
