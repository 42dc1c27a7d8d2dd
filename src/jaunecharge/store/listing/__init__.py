"""Lists of runs as a database answers them: filtered, sorted and counted there, a page at a time."""
