"""Requests that come slowly, in parts or never keep nobody else from being served."""

import json
import socket
import urllib.request
from contextlib import ExitStack
from urllib.parse import urlsplit

import pytest

from lantern.web.serving import LARGEST_HEAD, WHOLE, is_whole

HEAD = b"POST /api/sign-in HTTP/1.1\r\nHost: x\r\n"


@pytest.mark.parametrize(
    ("data", "whole"),
    [
        (b"", False),
        (b"GET / HTTP/1.1\r\nHost: x\r\n", False),
        (b"GET / HTTP/1.1\r\nHost: x\r\n\r\n", True),
        (HEAD + b"Content-Length: 5\r\n\r\n1234", False),
        (HEAD + b"content-length:5\r\n\r\n12345", True),
        (HEAD + b"Content-Length: 99999999\r\n\r\n" + bytes(WHOLE), True),
        (b"x" * LARGEST_HEAD, True),
    ],
)
def test_a_request_is_begun_when_its_head_and_a_small_body_are_there(data, whole):
    assert is_whole(data) is whole


def connected(stack):
    return socket.create_connection(("127.0.0.1", urlsplit(stack.address).port), timeout=20)


def test_half_a_request_of_many_strangers_holds_up_nobody(stack):
    with ExitStack() as held:
        for number in range(300):
            one = held.enter_context(connected(stack))
            if number % 3:  # some say nothing at all
                one.sendall(HEAD if number % 2 else HEAD + b"Content-Length: 50\r\n\r\n{")
        for _ in range(20):
            with urllib.request.urlopen(f"{stack.address}/api/health", timeout=5) as answer:
                assert answer.status == 200


def test_a_request_that_comes_in_parts_is_answered(stack):
    body = json.dumps({"username": "pia", "password": "lantern-viewer"}).encode()
    head = b"Content-Type: application/json\r\nContent-Length: %d\r\n\r\n" % len(body)
    with connected(stack) as slow:
        for part in (HEAD[:9], HEAD[9:], head, body[:5], body[5:]):
            slow.sendall(part)
            with urllib.request.urlopen(f"{stack.address}/api/health", timeout=5) as answer:
                assert answer.status == 200
        assert slow.recv(100).startswith(b"HTTP/1.1 200")
