"""Further connections to the database of a test."""

from concurrent.futures import ThreadPoolExecutor

import psycopg
from django.db import connection


def another_connection():
    """Open a second connection to the test database."""
    parts = connection.get_connection_params()
    return psycopg.connect(**{key: parts[key] for key in ("dbname", "user", "password", "host", "port")})


def elsewhere(work):
    """Run something in another thread, with a connection of its own; returns what will be its result."""

    def run():
        try:
            return work()
        finally:
            connection.close()

    pool = ThreadPoolExecutor(1)
    coming = pool.submit(run)
    pool.shutdown(wait=False)
    return coming
