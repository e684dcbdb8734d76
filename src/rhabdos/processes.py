"""How a process of our own is started: by Python, or by the bundle that brings its own."""

import sys

MODULE = "--module-of-rhabdos"
"""The word by which the bundle runs a module instead of the program."""


def command_of(module: str, *words: str) -> list[str]:
    """The command that runs a module of ours.

    It is not looked for where the user stands: a stranger's folder may hold modules of any name.
    """
    if getattr(sys, "frozen", False):
        return [sys.executable, MODULE, module, *words]
    return [sys.executable, "-P", "-m", module, *words]
