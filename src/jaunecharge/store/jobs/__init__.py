"""Jobs: their records, and the queue of the engine that hands them to workers."""
