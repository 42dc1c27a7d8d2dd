"""Runs as they are stored: samples, files, readings, decisions, remarks; copies and rehearsals."""
