"""Builds wheel and sdist of what is committed, the same bytes each time: ``python
tools/distributions.py [FOLDER]``; the folder is dist unless another is named.

Times are that of the commit, owners are nobody, names are in order.
"""

import gzip
import io
import os
import subprocess
import sys
import tarfile
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]


def committed_at() -> int:
    """Seconds since 1970 of the commit."""
    told = subprocess.run(
        ["git", "log", "-1", "--format=%ct"], cwd=ROOT, capture_output=True, text=True, check=True
    )
    return int(told.stdout)


def build(to: Path) -> list[Path]:
    """Build both into a folder.

    Returns
    -------
    list of Path
        The sdist and the wheel.
    """
    at = committed_at()
    to.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        source, made = Path(folder) / "source", Path(folder) / "made"
        source.mkdir()
        archive = subprocess.run(
            ["git", "archive", "HEAD"], cwd=ROOT, capture_output=True, check=True
        ).stdout
        with tarfile.open(fileobj=io.BytesIO(archive)) as tar:
            tar.extractall(source, filter="tar")
        subprocess.run(
            [str(ROOT / ".venv-release" / "bin" / "python"), "-m", "build", "--no-isolation",
             "--outdir", str(made), str(source)],
            check=True, stdout=subprocess.DEVNULL, env={**os.environ, "SOURCE_DATE_EPOCH": str(at)},
        )  # fmt: skip
        (sdist,) = made.glob("*.tar.gz")
        (wheel,) = made.glob("*.whl")
        (to / sdist.name).write_bytes(_settled(sdist.read_bytes(), at))
        (to / wheel.name).write_bytes(wheel.read_bytes())
        return [to / sdist.name, to / wheel.name]


def _settled(packed: bytes, at: int) -> bytes:
    """The same sdist with times, owners and order that do not depend on when and where it was
    made."""
    plain = io.BytesIO()
    with (
        tarfile.open(fileobj=io.BytesIO(packed)) as given,
        tarfile.open(fileobj=plain, mode="w", format=tarfile.PAX_FORMAT) as kept,
    ):
        for member in sorted(given.getmembers(), key=lambda each: each.name):
            content = given.extractfile(member) if member.isfile() else None
            member.mtime, member.uid, member.gid, member.uname, member.gname = at, 0, 0, "", ""
            member.mode = 0o755 if member.isdir() or member.mode & 0o100 else 0o644
            member.pax_headers = {}
            kept.addfile(member, content)
    out = io.BytesIO()
    with gzip.GzipFile(fileobj=out, mode="wb", mtime=at, filename="") as file:
        file.write(plain.getvalue())
    return out.getvalue()


if __name__ == "__main__":
    for path in build(Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "dist"):
        print(path)
