"""Plans as they are stored: cards, the plan, its slots and what has happened to them."""
