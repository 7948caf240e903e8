"""Further connections to the database of a test."""

import psycopg
from django.db import connection


def another_connection():
    """Open a second connection to the test database."""
    parts = connection.get_connection_params()
    return psycopg.connect(**{key: parts[key] for key in ("dbname", "user", "password", "host", "port")})
