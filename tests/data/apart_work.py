"""Work that is done in a process of its own, and how it may end."""

import os

from rhabdos.errors import Refusal


def greedy(_source, _asked):
    return {"size": len(bytearray(1 << 31))}, b""


def endless(_source, _asked):
    while True:
        pass


def dying(_source, _asked):
    os.abort()


def refusing(_source, _asked):
    raise Refusal("No.")


def answering(source, asked):
    print("a library says something")  # which must not mix with the answer
    return {"asked": asked["of"]}, source.read()[::-1]
