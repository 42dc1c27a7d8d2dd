"""The data package out of the store and into it again."""
