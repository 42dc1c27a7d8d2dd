"""The job: every rule and every figure of it. Packages by floor, each knowing only those below; other layers take what
the faces give.
"""
