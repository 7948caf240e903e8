"""A web process that answers any query with the whole answer of the tally, as JSON."""

import json
import os
from pathlib import Path

import django

django.setup()

from django.db import Error, close_old_connections  # noqa: E402

from binsort.core.count import answer_document  # noqa: E402
from binsort.core.facets.facet_file import read_facet_file  # noqa: E402
from binsort.core.facets.query import pairs_of  # noqa: E402
from binsort.tally.current import current  # noqa: E402

FACETS = Path(__file__).parents[2] / "binsort" / "demo" / "data" / "facets.json"
SPECS = read_facet_file(os.environ.get("BINSORT_KILLS_FACETS", "").encode() or FACETS.read_bytes()).facets
PER = 500


def answered(query):
    """Return the answer to a query, and the position and moment it holds for."""
    held = current()
    rack = held.rack(SPECS)
    return {"answer": answer_document(rack.answer(rack.read(pairs_of(query)), per=PER)), "now": str(held.now)}


def application(environ, start_response):
    """Answer over WSGI; 503 while the database is away."""
    close_old_connections()
    try:
        body = json.dumps(answered(environ.get("QUERY_STRING", ""))).encode()
        status = "200 OK"
    except Error as error:
        body, status = str(error).encode(), "503 Service Unavailable"
    finally:
        close_old_connections()
    start_response(status, [("Content-Type", "application/json"), ("Content-Length", str(len(body)))])
    return [body]
