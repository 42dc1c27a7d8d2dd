"""What the store keeps as JSON: models with a version, read back however old a row is, and never by key."""
