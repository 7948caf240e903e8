"""Limits: how often a token, or an address without one, may call the API; above that 429 with Retry-After (RFC 6585, section 4)."""

import hashlib
import math
import threading
import time
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse

from .proxy import client_address

_MOST = 20_000  # callers that are remembered
_BURST, _SECONDS = 10, 10  # calls that may come at once: so many, or what is let through in so many seconds


class Meter:
    """Lets through so many calls a minute for each caller; some may come at once.

    The generic cell rate algorithm (ITU-T Recommendation I.371, annex A, virtual scheduling): each caller has a time at which
    its next call is expected; one that comes too long before it does not conform.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._expected: dict[str, float] = {}

    def wait(self, caller: str, a_minute: float, now: float) -> float:
        """Return 0 and count the call where it conforms, else how many seconds to wait; a call that does not conform is not counted.

        >>> meter = Meter()
        >>> [meter.wait("me", 60, 0.0) for _ in range(12)]  # one a second, ten at once
        [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1.0, 1.0]
        >>> meter.wait("me", 60, 1.0), meter.wait("you", 60, 1.0)
        (0, 0)
        """
        apart = 60 / a_minute
        tolerance = (max(_BURST, a_minute * _SECONDS / 60) - 1) * apart
        with self._lock:
            expected = max(now, self._expected.get(caller, 0.0))
            early = expected - now - tolerance
            if early > 1e-9:
                return early
            if caller not in self._expected and len(self._expected) >= _MOST:
                self._forget(now)
            self._expected[caller] = expected + apart
        return 0

    def knows(self, caller: str) -> bool:
        """Tell whether a caller was let through of late."""
        return caller in self._expected

    def charge(self, caller: str, a_minute: float, now: float) -> None:
        """Count a call that was let through for another caller."""
        with self._lock:
            self._expected[caller] = max(now, self._expected.get(caller, 0.0)) + 60 / a_minute

    def _forget(self, now: float) -> None:
        """Forget those who have nothing owing; where all have, everybody: nobody is kept out for want of memory."""
        self._expected = {caller: expected for caller, expected in self._expected.items() if expected > now}
        if len(self._expected) >= _MOST:
            self._expected.clear()


class LimitCalls:
    """Answers 429 to those who call the API more often than they may."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response, self._meter = get_response, Meter()

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on, or not."""
        if not request.path.startswith("/api/") or request.method == "OPTIONS" or not settings.CALLS_A_MINUTE:
            return self._get_response(request)
        now, address, token = time.monotonic(), f"at {client_address(request)}", _token(request)
        by_token = bool(token) and self._meter.knows(token)  # one that was never let in counts for its address
        caller, rate = (token, settings.CALLS_A_MINUTE_BY_TOKEN) if by_token else (address, settings.CALLS_A_MINUTE)
        wait = self._meter.wait(caller, rate / settings.PROCESSES, now)
        if wait:
            return _too_often(wait, rate)
        response = self._get_response(request)
        if token and not by_token and response.status_code != 401:
            self._meter.charge(token, settings.CALLS_A_MINUTE_BY_TOKEN / settings.PROCESSES, now)
        return response


def _token(request: HttpRequest) -> str:
    header = request.headers.get("Authorization", "")
    return f"by {hashlib.sha256(header.encode()).hexdigest()}" if header else ""


def _too_often(wait: float, rate: float) -> HttpResponse:
    seconds = math.ceil(wait)
    title = f"More than {rate:,.0f} calls a minute. Ask again in {seconds} s; with a token more are answered."
    response = JsonResponse({"title": title, "status": 429, "problems": []}, status=429)
    response["Retry-After"] = str(seconds)
    response["Cache-Control"] = "no-store"
    return response
