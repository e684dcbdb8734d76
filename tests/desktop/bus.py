"""The window as a screen reader finds it: a session bus, the bus of accessibility (AT-SPI) and a
screen without a monitor, each started by the tests, and a reader of the tree."""

import os
import select
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from jeepney import (
    DBusAddress,
    HeaderFields,
    MatchRule,
    MessageType,
    Properties,
    message_bus,
    new_method_call,
)
from jeepney.io.blocking import DBusConnection, open_dbus_connection

_ACCESSIBLE = "org.a11y.atspi.Accessible"
_VALUE = "org.a11y.atspi.Value"
_ROOT = "/org/a11y/atspi/accessible/root"
_PATIENCE = 30  # seconds
_LABELLED_BY = 2
_IN_FRONT = ("dialog", "alert message", "file chooser")
_NO_ROLES = ("filler", "unknown", "invalid", "layered pane", "panel", "")
FOCUSABLE, FOCUSED, SHOWING, VISIBLE = 11, 12, 25, 30
"""Bits of an object's state."""


@dataclass
class Node:
    """One thing that a screen reader finds."""

    role: str
    name: str
    description: str
    states: frozenset[int]
    address: tuple[str, str]
    children: list["Node"] = field(default_factory=list)

    def walk(self, above: str = "") -> Iterator[tuple[str, "Node"]]:
        """This and all beneath, each with what it stands in."""
        yield above, self
        for child in self.children:
            yield from child.walk(f"{above} › {self.role} {self.name!r}")

    def all(self, role: str, name: str = "") -> list["Node"]:
        """All of a role, of some beginning of a name."""
        return [n for _, n in self.walk() if n.role == role and n.name.startswith(name)]

    def one(self, role: str, name: str = "") -> "Node":
        """The only one of a role and the beginning of a name."""
        found = self.all(role, name)
        assert len(found) == 1, (role, name, [(n.role, n.name) for n in found])
        return found[0]


class Reader:
    """Asks the bus of accessibility."""

    def __init__(self, session: str) -> None:
        with open_dbus_connection(session) as bus:
            address = DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.a11y.Bus")
            answer = bus.send_and_get_reply(new_method_call(address, "GetAddress"), timeout=20)
        self._bus: DBusConnection = open_dbus_connection(answer.body[0])
        self._roles: dict[tuple[str, str], str] = {}  # what a thing is does not change

    def close(self) -> None:
        self._bus.close()

    def _asked(self, message):
        answer = self._bus.send_and_get_reply(message, timeout=20)
        if answer.header.message_type == MessageType.error:
            raise LookupError(str(answer.body))
        return answer.body

    def _property(self, at: tuple[str, str], interface: str, name: str):
        address = DBusAddress(at[1], at[0], interface)
        return self._asked(Properties(address).get(name))[0][1]

    def _call(self, at: tuple[str, str], name: str) -> tuple:
        return self._asked(new_method_call(DBusAddress(at[1], at[0], _ACCESSIBLE), name))

    def tree(
        self, program: str = "Rhabdos", most: int = 400, hidden: bool = True, behind: bool = True
    ) -> Node:
        """Everything that the program of that name has which started last, once it is there; long lists in part, and on wish without
        what lies in parts of the window that are hidden, or in the window behind a dialog."""
        root = ("org.a11y.atspi.Registry", _ROOT)
        until = time.monotonic() + _PATIENCE
        while time.monotonic() < until:
            for child in reversed(self._call(root, "GetChildren")[0]):
                if self._property(tuple(child), _ACCESSIBLE, "Name") == program:
                    return self._read(tuple(child), most, hidden, behind)
            time.sleep(0.1)
        raise LookupError(f"{program} is not on the bus")

    def _answers(self, messages: list) -> list:
        """What is answered to many questions, which are all sent before the first is answered."""
        waited = {}
        for place, message in enumerate(messages):
            serial = next(self._bus.outgoing_serial)
            waited[serial] = place
            self._bus.send(message, serial=serial)
        answers = [None] * len(messages)
        while waited:
            message = self._bus.receive(timeout=20)
            place = waited.pop(message.header.fields.get(HeaderFields.reply_serial), None)
            if place is not None and message.header.message_type == MessageType.method_return:
                answers[place] = message.body
        return answers

    def _read(self, at: tuple[str, str], most: int, hidden: bool, behind: bool) -> Node:
        """A thing with all beneath it, level by level."""
        top = None
        level: list[tuple[Node | None, tuple[str, str]]] = [(None, at)]
        while level:
            self._learn_roles([each for _, each in level if each not in self._roles])
            questions = []
            for _, each in level:
                address = DBusAddress(each[1], each[0], _ACCESSIBLE)
                questions += [
                    new_method_call(address, "GetState"), new_method_call(address, "GetChildren"),
                    Properties(address).get("Name"), Properties(address).get("Description"),
                ]  # fmt: skip
            answers = self._answers(questions)
            below = []
            for (parent, each), number in zip(level, range(0, len(answers), 4), strict=True):
                role = self._roles.get(each)
                state, children, name, description = answers[number : number + 4]
                if role is None or None in (state, children, name, description):
                    continue  # it went meanwhile
                low, high = state[0]
                bits = low | (high << 32)
                states = frozenset(bit for bit in range(64) if bits >> bit & 1)
                node = Node(role, name[0][1], description[0][1], states, each)
                top = top or node
                if parent is not None:
                    parent.children.append(node)
                beneath = hidden and node.role != "popup menu"
                if beneath or SHOWING in states or node is top:
                    below += [
                        (node, tuple(child)) for child in children[0][:most]
                        if child[1] != "/org/a11y/atspi/null"
                    ]  # fmt: skip
            if not behind and any(node.role in _IN_FRONT for node in top.children):
                below = [(node, each) for node, each in below if node.role != "frame"]
            level = below
        assert top is not None
        return top

    def _learn_roles(self, places: list[tuple[str, str]]) -> None:
        calls = [
            new_method_call(DBusAddress(path, program, _ACCESSIBLE), "GetRoleName")
            for program, path in places
        ]
        for place, role in zip(places, self._answers(calls), strict=True):
            if role is not None:
                self._roles[place] = role[0]

    def labelled(self, node: Node) -> bool:
        """Whether something beside it says what it is for."""
        return any(
            kind == _LABELLED_BY and of
            for kind, of in self._call(node.address, "GetRelationSet")[0]
        )

    def faults(self, tree: Node) -> list[str]:
        """What has the keys of a screen reader's user and says nothing, or not what it is."""
        found = []
        for above, node in tree.walk():
            if not {FOCUSABLE, SHOWING} <= node.states:
                continue
            if node.role in _NO_ROLES:
                found.append(f"no role: {above} › {node.role} {node.name!r}")
            if node.role == "combo box" and not self.labelled(node):
                found.append(f"no label: {above} › {node.role} {node.name!r}")
            if not node.name.strip() and "cell" not in node.role:
                found.append(f"no name: {above} › {node.role}")
        return found

    def set_value(self, node: Node, value: float) -> None:
        """Set what a slider stands at, as a screen reader does."""
        address = DBusAddress(node.address[1], node.address[0], _VALUE)
        self._asked(Properties(address).set("CurrentValue", "d", value))

    def heard(self, does) -> list[str]:
        """The kinds of events of objects while something is done."""
        rule = MatchRule(type="signal", interface="org.a11y.atspi.Event.Object")
        self._asked(message_bus.AddMatch(rule))
        registry = DBusAddress(
            "/org/a11y/atspi/registry", "org.a11y.atspi.Registry", "org.a11y.atspi.Registry"
        )
        self._asked(new_method_call(registry, "RegisterEvent", "s", ("object",)))
        with self._bus.filter(rule, bufsize=2_000) as queue:
            does()
            kinds = []
            while True:
                try:
                    message = self._bus.recv_until_filtered(queue, timeout=0.5)
                except TimeoutError:
                    return kinds
                kinds.append(
                    f"{message.header.fields[HeaderFields.member]}:{message.body[0]}".lower()
                )

    def value(self, node: Node) -> tuple[float, float, float, float]:
        """Of something that is set: its value, the least, the greatest and the step."""
        names = ("CurrentValue", "MinimumValue", "MaximumValue", "MinimumIncrement")
        return tuple(self._property(node.address, _VALUE, name) for name in names)


@contextmanager
def session(folder: Path) -> Iterator[dict[str, str]]:
    """A session bus and a screen; yields what programs of the session have in their environment."""
    with ExitStack() as ends:
        read, write = os.pipe()
        screen = subprocess.Popen(
            ["Xvfb", "-displayfd", str(write), "-screen", "0", "1600x1000x24", "-nolisten", "tcp"],
            pass_fds=[write], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        ends.callback(_end, screen)
        os.close(write)
        with os.fdopen(read) as told:
            display = told.readline().strip()
        environment = {
            **os.environ,
            "DISPLAY": f":{display}",
            "QT_QPA_PLATFORM": "xcb",
            "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1",
            "XDG_RUNTIME_DIR": str(folder),
            "NO_AT_BRIDGE": "0",
        }
        environment.pop("WAYLAND_DISPLAY", None)
        environment.pop("AT_SPI_BUS_ADDRESS", None)
        bus = subprocess.Popen(
            ["dbus-daemon", "--session", "--nofork", "--print-address=1"],
            stdout=subprocess.PIPE, text=True, env=environment, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        ends.callback(_end, bus)
        environment["DBUS_SESSION_BUS_ADDRESS"] = bus.stdout.readline().strip()
        yield environment


def _end(process: subprocess.Popen) -> None:
    process.terminate()
    process.wait(timeout=20)
    if process.stdout:
        process.stdout.close()


class Program:
    """The window in a process of its own, which does as it is told."""

    def __init__(self, environment: dict[str, str], *words: str) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests.desktop.told_window", *words],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, bufsize=1, env=environment,
            cwd=Path(__file__).parents[2],
        )  # fmt: skip
        assert self._process.stdout.readline() == "ready\n"

    def do(self, code: str) -> str:
        """Have a line of Python done in it; ``window`` and ``keys`` are there, and what is printed
        is handed back once nothing is worked on."""
        self._process.stdin.write(f"{code}\n")
        self._process.stdin.flush()
        told = ""
        while not told.endswith("done\n"):
            ready, _, _ = select.select([self._process.stdout.fileno()], [], [], _PATIENCE)
            assert ready, f"the window does not answer: {code}"
            part = os.read(self._process.stdout.fileno(), 65536)
            assert part, "the window has ended"
            told += part.decode()
        return told.removesuffix("done\n").strip()

    def ask(self, expression: str) -> str:
        """What an expression is now, without waiting for what is being worked on."""
        return self.do(f"={expression}")

    def keys(self, *sequences: str) -> None:
        """Press keys, one after the other, as a person would."""
        for keys in sequences:
            self.do(f"keys({keys!r})")

    def type(self, text: str) -> None:
        """Type a text."""
        self.do(f"typed({text!r})")

    def end(self) -> None:
        self._process.stdin.close()
        try:
            self._process.wait(timeout=10)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait(timeout=10)
        self._process.stdout.close()
