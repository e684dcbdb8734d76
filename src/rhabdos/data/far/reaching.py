"""From an address to a table, with the password that the user gave or keeps, if any."""

import threading
from typing import TYPE_CHECKING

from msgspec import structs

from rhabdos.data.far.place import Place, place_of
from rhabdos.data.far.table import far_table
from rhabdos.data.reporting import Report, silent
from rhabdos.data.table import Table

if TYPE_CHECKING:
    from rhabdos.data.far.connection import Connection

_LOCK = threading.Lock()  # two tasks that want the same place share one connection
_PASSWORDS: dict[Place, str] = {}
"""What was typed since the program began; it is never written anywhere."""


def remember_password(place: Place, password: str) -> None:
    """Use a password for a server from now on, as long as the program runs."""
    with _LOCK:
        _PASSWORDS[_server(place)] = password


def password_for(place: Place) -> str:
    """What was typed for a server, else what the desktop's keyring holds under "rhabdos"; empty
    where neither does, and the driver looks into the user's password file."""
    server = _server(place)
    with _LOCK:
        if server in _PASSWORDS:
            return _PASSWORDS[server]
    try:
        import keyring
    except ImportError:  # a driver is an extra, which not every installation has
        return ""
    try:
        return keyring.get_password("rhabdos", server.text) or ""
    except Exception:  # noqa: BLE001 - a keyring that is locked or absent has no password
        return ""


def _server(place: Place) -> Place:
    return structs.replace(place, schema="", table="", query="")


def connection_to(place: Place) -> "Connection":
    """A connection to a server.

    Raises
    ------
    FarError
        It cannot be reached, or its driver is not installed.
    """
    if place.engine == "spark":
        from rhabdos.data.far.spark import SparkTable

        return SparkTable(place, password_for(place))
    from rhabdos.data.far.postgres import PostgresTable

    return PostgresTable(place, password_for(place))


def reached(place: Place, report: Report = silent) -> Table:
    """The table at a place, as far as it was looked at.

    Raises
    ------
    FarError
        It cannot be reached or asked, or holds no rows.
    Cancelled
        From ``report``.
    """
    report(f"Reaching {place.server}", None)
    connection = connection_to(place)
    report(f"Looking at {place.name}", None)
    table = far_table(place.name, connection, place.name)
    remark = (
        f"{place.name} stays at {place.server}: figures count all rows there, and lists of rows "
        "show some of them."
    )
    return structs.replace(table, remarks=(remark, *table.remarks))


def reached_at(address: str, report: Report = silent) -> Table:
    """The same of an address as it is typed, which may hold a password.

    Raises
    ------
    Refusal
        It is no address, or cannot be reached.
    """
    place, password = place_of(address)
    if password:
        remember_password(place, password)
    return reached(place, report)
