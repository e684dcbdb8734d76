"""Where far data lie, without any secret, as recipes and works keep it."""

import re
from typing import Literal
from urllib.parse import parse_qsl, unquote, urlsplit

from msgspec import Struct

from rhabdos.errors import Refusal
from rhabdos.quoting import listed, quoted, shortened_to

Engine = Literal["files", "postgresql", "spark"]
_SCHEMES: dict[str, Engine] = {"postgresql": "postgresql", "postgres": "postgresql", "sc": "spark"}
# Of an address; no secret is among them.
_KEPT_OPTIONS = ("sslmode", "sslrootcert", "connect_timeout")


class PlaceError(Refusal):
    """An address of data cannot be read."""


class Place(Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Where a table lies.

    Attributes
    ----------
    engine : {"files", "postgresql", "spark"}
        What answers questions about it.
    host, port, database, user : str
        Of a server; empty where a service or the server's own defaults say it.
    service : str
        A name in the user's service file, which says all of these.
    schema, table : str
        What is read there.
    query : str
        A SELECT of one's own, in place of a table.
    options : tuple of str
        How to connect, "sslmode=require".
    """

    engine: Engine
    host: str = ""
    port: int = 0
    database: str = ""
    user: str = ""
    service: str = ""
    schema: str = ""
    table: str = ""
    query: str = ""
    options: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        """The address as it is typed; a query is not in it."""
        if self.service:
            begin = f"service:{self.service}"
        else:
            scheme = "sc" if self.engine == "spark" else "postgresql"
            user = f"{self.user}@" if self.user else ""
            host = f"[{self.host}]" if ":" in self.host else self.host
            port = f":{self.port}" if self.port else ""
            database = f"/{self.database}" if self.database else ""
            begin = f"{scheme}://{user}{host}{port}{database}"
            begin += f"?{'&'.join(self.options)}" if self.options else ""
        what = ".".join(_in_quotes(name) for name in (self.schema, self.table) if name)
        return f"{begin}#{what}" if what else begin

    @property
    def name(self) -> str:
        """What a table from there is called."""
        where = self.database or self.service or self.host or self.engine
        return shortened_to(60, self.table or f"a query in {where}")

    @property
    def server(self) -> str:
        """The server in words."""
        if self.service:
            return f"the service {quoted(self.service)}"
        where = self.host or "this machine"
        return f"the database {quoted(self.database)} on {where}" if self.database else where


def _in_quotes(name: str) -> str:
    if not set('."%') & set(name):
        return name
    return '"{}"'.format(name.replace('"', '""').replace("%", "%25"))


def is_address(text: str) -> bool:
    """Whether a text is an address of far data, and no name of a file."""
    scheme, colon, _rest = text.partition(":")
    return bool(colon) and (scheme == "service" or scheme in _SCHEMES)


def _service(text: str, query: str) -> Place:
    """A table of a service file: ``NAME#schema.table``."""
    name, _, what = text.partition("#")
    if not re.fullmatch(r"[\w.-]+", name):
        raise PlaceError("An address service:NAME needs the name of a service. Type it.")
    schema, table = _what(what, query)
    return Place("postgresql", service=name, schema=schema, table=table, query=query)


def place_of(text: str, query: str = "") -> tuple[Place, str]:
    """Read an address; what is secret in it is handed back apart.

    Parameters
    ----------
    text : str
        ``postgresql://user@host/database#schema.table``, ``service:NAME#schema.table`` or
        ``sc://host#table``.
    query : str
        A SELECT in place of the table.

    Returns
    -------
    place : Place
    password : str
        Empty where there is none.

    Raises
    ------
    PlaceError
        It is no such address. The sentence does not repeat it, since it may hold a password.
    """
    if text.startswith("service:"):
        return _service(unquote(text.removeprefix("service:")), query), ""
    try:
        parts = urlsplit(text)
        engine, host, port = _SCHEMES[parts.scheme], parts.hostname or "", parts.port or 0
        password = unquote(parts.password or "")
    except (ValueError, KeyError):
        raise PlaceError(
            "This is no address of a database: it is written postgresql://user@host/database, "
            "service:NAME or sc://host, with #schema.table after it. Letters such as @ and / in a "
            "user's name are written as %40 and %2F."
        ) from None
    options = []
    for key, value in parse_qsl(parts.query, keep_blank_values=True):
        if key == "password":
            password = value
        elif key in _KEPT_OPTIONS:
            options.append(f"{key}={value}")
        else:
            raise PlaceError(
                f"An address says nothing about {quoted(key)} here: it may say "
                f"{listed(list(_KEPT_OPTIONS), 'or')}. Put the rest into a service file."
            )
    schema, table = _what(unquote(parts.fragment), query)
    place = Place(
        engine,
        host,
        port,
        unquote(parts.path.lstrip("/")),
        unquote(parts.username or ""),
        "",
        schema,
        table,
        query,
        tuple(options),
    )
    return place, password


def _what(text: str, query: str) -> tuple[str, str]:
    """Schema and table of "schema.table"; a table whose name has a dot is written in quotes."""
    if query:
        return "", ""
    parts = re.findall(r'"((?:[^"]|"")+)"|([^."]+)', text)
    names = [first.replace('""', '"') or second for first, second in parts]
    if len(names) > 2:
        raise PlaceError(
            "After # stands a table, or a schema and a table: harvest.shells. Names with dots are "
            'written in double quotes: "spring.2026".'
        )
    return (names[0], names[1]) if len(names) == 2 else ("", names[0] if names else "")
