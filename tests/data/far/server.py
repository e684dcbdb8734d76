"""A PostgreSQL server of the tests' own, on this machine and gone afterwards."""

import os
import shutil
import socket
import subprocess
import tempfile
import time
from pathlib import Path

import polars as pl

_FOLDERS = sorted(Path("/usr/lib/postgresql").glob("*/bin"), reverse=True)


def binaries() -> Path | None:
    """Where the server's programs are, if it is installed."""
    found = next((folder for folder in _FOLDERS if (folder / "initdb").exists()), None)
    other = shutil.which("initdb")
    return found or (Path(other).parent if other else None)


class Server:
    """One server; use it as a context, which stops it and takes its folder away."""

    def __init__(self) -> None:
        programs = binaries()
        assert programs is not None
        self._programs = programs
        self._folder = Path(tempfile.mkdtemp(prefix="rhabdos-server-"))
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]

    def __enter__(self) -> "Server":
        if os.geteuid() == 0:
            shutil.chown(self._folder, "postgres")
        self._run("initdb", "-A", "trust", "-U", "keeper", "--no-sync", "--no-locale", "-E", "UTF8")
        self.start()
        return self

    def __exit__(self, *_: object) -> None:
        self.stop()
        shutil.rmtree(self._folder, ignore_errors=True)

    def start(self) -> None:
        """Start it, and wait until it answers."""
        options = (
            f"-p {self.port} -c listen_addresses=127.0.0.1 -c fsync=off -c log_statement=all "
            f"-c unix_socket_directories={self._folder}"
        )
        self._run("pg_ctl", "-w", "-o", options, "-l", str(self._folder / "log"), "start")

    def stop(self) -> None:
        """Stop it at once."""
        self._run("pg_ctl", "-m", "immediate", "-w", "stop")

    def _run(self, program: str, *words: str) -> None:
        as_whom = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []
        command = [*as_whom, str(self._programs / program), "-D", str(self._folder), *words]
        with open(os.devnull, "w", encoding="ascii") as nothing:
            done = subprocess.run(
                command, stdout=nothing, stderr=subprocess.PIPE, text=True, check=False, cwd="/tmp"
            )
        assert done.returncode == 0, done.stderr

    @property
    def address(self) -> str:
        """Where its one database is."""
        return f"postgresql://keeper@127.0.0.1:{self.port}/postgres"

    def do(self, *statements: str) -> None:
        """Do some statements as its owner."""
        from adbc_driver_postgresql import dbapi

        with dbapi.connect(self.address, autocommit=True) as connection:
            for statement in statements:
                with connection.cursor() as cursor:
                    cursor.execute(statement)

    def hold(self, name: str, frame: pl.DataFrame) -> None:
        """A table of these rows."""
        from adbc_driver_postgresql import dbapi

        with dbapi.connect(self.address, autocommit=True) as connection, connection.cursor() as c:
            c.adbc_ingest(name, frame, mode="replace")
        doubled = name.replace('"', '""')
        self.do(f'ANALYZE "{doubled}"')

    def log(self) -> str:
        """All that it was asked so far."""
        time.sleep(0.1)
        return (self._folder / "log").read_text(errors="replace")
