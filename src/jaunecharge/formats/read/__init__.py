"""Tables as meters, spreadsheets and people write them, read: examined, understood, put on one clock, within limits."""
