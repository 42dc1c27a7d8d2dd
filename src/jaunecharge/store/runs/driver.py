"""The driver beneath a session, and the frame of PostgreSQL's binary COPY."""

import psycopg
from sqlalchemy.orm import Session

SIGNATURE = b"PGCOPY\n\xff\r\n\x00" + bytes(8)
TRAILER = b"\xff\xff"


def driver(session: Session) -> psycopg.Connection:
    """The psycopg connection of a session, in its transaction."""
    connection = session.connection().connection.driver_connection
    assert isinstance(connection, psycopg.Connection)
    return connection
