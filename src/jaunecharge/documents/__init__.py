"""JSON documents of the store: models with a version, read back however old a row is, and never by key."""
