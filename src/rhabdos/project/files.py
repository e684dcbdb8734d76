"""Writing files so that a failure leaves no half-written one and keeps the old."""

import errno
import os
import tempfile
from pathlib import Path

from rhabdos.errors import Refusal


class StorageError(Refusal):
    """A file cannot be written or read."""


def write_whole(path: str | os.PathLike[str], content: bytes) -> None:
    """Write beside the file, then put it in the file's place.

    Raises
    ------
    StorageError
        The folder is missing or may not be written to, or the disk is full; an older file is untouched.
    """
    target = Path(path)
    beside: str | None = None
    try:
        if target.is_dir():
            raise StorageError(f"{target} is a folder. Choose a name for a file in it.")
        if os.access(target.parent, os.F_OK) and target.exists() and not os.access(target, os.W_OK):
            raise PermissionError(errno.EACCES, os.strerror(errno.EACCES))
        handle, beside = tempfile.mkstemp(dir=target.parent, prefix=f".{target.name}.", suffix=".part")
        with os.fdopen(handle, "wb") as stream:
            stream.write(content)
            stream.flush()
            os.fsync(stream.fileno())
        os.chmod(beside, _mode_of(target))
        os.replace(beside, target)
        beside = None
    except OSError as error:
        raise StorageError(_explained(target, error)) from error
    finally:
        if beside is not None:
            Path(beside).unlink(missing_ok=True)


def read_text(path: str | os.PathLike[str]) -> str:
    """Read a small text file in UTF-8, or say why not."""
    target = Path(path)
    try:
        return target.read_text(encoding="utf-8")
    except UnicodeDecodeError:
        raise StorageError(f"{target.name} is not a text in UTF-8. Check that it is the file you mean.") from None
    except OSError as error:
        raise StorageError(
            f"{target} could not be read: {_reason(error)}. Check its name and whether you may read it."
        ) from error


def _mode_of(target: Path) -> int:
    """The old file's permissions, or what a new file gets."""
    if target.exists():
        return target.stat().st_mode & 0o777
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask


def _explained(target: Path, error: OSError) -> str:
    folder = target.parent.resolve()
    if error.errno == errno.ENOENT:
        return f"There is no folder {folder}. Choose another one, or make it first."
    if error.errno in (errno.EACCES, errno.EPERM, errno.EROFS):
        return f"{target.name} may not be written in {folder}. Choose another folder."
    if error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
        return f"There is no room for {target.name} in {folder}. Free some space or choose another disk."
    return f"{target.name} could not be written in {folder}: {_reason(error)}. Choose another place."


def _reason(error: OSError) -> str:
    return (error.strerror or str(error)).lower()
