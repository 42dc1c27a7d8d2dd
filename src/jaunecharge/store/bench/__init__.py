"""Lanes as they are stored: opened, logged to, read from, ended; surveys and checks."""
