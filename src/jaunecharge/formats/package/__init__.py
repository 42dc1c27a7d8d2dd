"""The data package: everything of a bench, or of one finding, in open formats, out and in again."""
