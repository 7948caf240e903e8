"""Serves the club's pages, under a policy that lets in nothing but the shop: ``python -m binsort.demo.club.server PORT SHOP``."""

import sys
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

_HERE = Path(__file__).parent
_POLICY = (
    "default-src 'none'; script-src {shop}; connect-src {shop}; img-src 'self' {shop}; style-src 'self'; font-src 'self'; "
    "base-uri 'none'; form-action 'none'; frame-ancestors 'none'; require-trusted-types-for 'script'; trusted-types bin-sort"
)
_TYPES = {".html": "text/html; charset=utf-8", ".css": "text/css; charset=utf-8", ".svg": "image/svg+xml", ".woff2": "font/woff2"}


class Club(SimpleHTTPRequestHandler):
    """The pages of the club; where one says ``{{ shop }}`` stands the shop's address."""

    def __init__(self, *arguments: Any, shop: str, **more: Any) -> None:
        self._shop = shop
        super().__init__(*arguments, **more)

    def do_GET(self) -> None:
        """Answer with a file of this folder."""
        name = self.path.partition("?")[0].strip("/") or "bosun.html"
        path = (_HERE / name).resolve()
        if not path.is_file() or _HERE not in path.parents or path.suffix not in _TYPES:
            self.send_error(404)
            return
        body = path.read_bytes()
        if path.suffix == ".html":
            body = body.replace(b"{{ shop }}", self._shop.encode())
        self.send_response(200)
        self.send_header("Content-Type", _TYPES[path.suffix])
        self.send_header("Content-Length", str(len(body)))
        self.send_header("Content-Security-Policy", _POLICY.format(shop=self._shop))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *arguments: Any) -> None:
        """Say nothing."""


def serve(port: int, shop: str) -> ThreadingHTTPServer:
    """Return the club's server, listening on loopback; port 0 takes a free one."""
    return ThreadingHTTPServer(("127.0.0.1", port), partial(Club, shop=shop))


if __name__ == "__main__":
    serve(int(sys.argv[1]), sys.argv[2].rstrip("/")).serve_forever()
