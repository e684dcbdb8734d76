"""Writing files so that a failure leaves no half-written one and keeps the old."""

import errno
import os
import re
import secrets
import stat
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from rhabdos.data.files.opening import OpenFile
from rhabdos.errors import Refusal
from rhabdos.quoting import file_named

LONGEST_RECIPE = 4 << 20
"""Bytes of a recipe, in a file of its own or within a figure."""
RECIPE_CAN_BE = f"a recipe can be ({LONGEST_RECIPE >> 20} MiB)"
_HANDLES = "/proc/self/fd"
_LONGEST_STEM = 200  # bytes, so that a name beside it stays within the 255 of file systems
_OURS = ".rhabdos-new"
_OLD = 60.0  # seconds after which nobody is still about to put a file in its place


class StorageError(Refusal):
    """A file cannot be written or read."""


def write_whole(path: str | os.PathLike[str], content: bytes, lasting: bool = True) -> None:
    """Write to an unnamed file, then put it in the file's place; whenever this is killed, nothing
    is left behind.

    ``lasting`` waits until the disk has it, so that it outlives a loss of power too.

    Raises
    ------
    StorageError
        The folder is missing or may not be written to, or the disk is full; an older file is
        untouched.
    """
    target = Path(path)
    try:
        old = _kind_of(target)
        if old and stat.S_ISDIR(old):
            raise StorageError(f"{file_named(target)} is a folder. Choose a name for a file in it.")
        if old and not stat.S_ISREG(old):
            raise StorageError(
                f"{file_named(target)} is a device or a pipe. Choose a name for a file."
            )
        if old and not os.access(target, os.W_OK):
            raise PermissionError(errno.EACCES, os.strerror(errno.EACCES))
        # Through a link, what it points to is written.
        _put(Path(os.path.realpath(target)), content, lasting)
    except ValueError:
        raise StorageError(
            f"{file_named(target)} is no name that a file can have. Choose another one."
        ) from None
    except OSError as error:
        raise StorageError(_explained(target, error)) from error


def _kind_of(target: Path) -> int:
    """What stands at a path now; 0 for nothing."""
    try:
        return target.stat().st_mode
    except FileNotFoundError:
        return 0


def _put(target: Path, content: bytes, lasting: bool) -> None:
    """Fill a file without a name, and name it; the name beside the target lives for a moment only,
    and is one that nobody has."""
    stem = f".{target.name[-_LONGEST_STEM:]}."
    beside = target.parent / f"{stem}{secrets.token_hex(8)}{_OURS}"
    mode = _mode_of(target)
    try:
        if not os.path.isdir(_HANDLES):  # without which a file gets no name
            raise OSError(errno.EOPNOTSUPP, os.strerror(errno.EOPNOTSUPP))
        handle = os.open(target.parent, os.O_TMPFILE | os.O_WRONLY | os.O_CLOEXEC, mode)
        unnamed = True
    except OSError as error:
        if error.errno not in (errno.EOPNOTSUPP, errno.EISDIR, errno.EINVAL):
            raise
        handle = os.open(beside, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_CLOEXEC, mode)
        unnamed = False
    ours = not unnamed
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(content)
            stream.flush()
            if lasting:
                os.fsync(
                    handle
                )  # before the name is given: after a crash it has the old content or the new one
            os.fchmod(handle, mode)  # who may read the old may read the new, and nobody else
            if unnamed:
                os.link(f"{_HANDLES}/{handle}", beside, src_dir_fd=handle, follow_symlinks=True)
                ours = True
        # At one stroke: whoever looks sees the old or the new, never a half.
        os.replace(beside, target)
    except BaseException:
        if ours:
            beside.unlink(missing_ok=True)
        raise
    _clear(target.parent, stem)


def _clear(folder: Path, stem: str) -> None:
    """Take away what a run left that was killed between the naming of a file and its putting in
    place: only names that no other program makes, and none that are new."""
    ours = re.compile(re.escape(stem) + "[0-9a-f]{16}" + re.escape(_OURS))
    with suppress(OSError), os.scandir(folder) as there:
        for entry in there:
            if ours.fullmatch(entry.name) and time.time() - entry.stat().st_mtime > _OLD:
                os.unlink(entry)


def same_file(one: str | os.PathLike[str], other: str | os.PathLike[str]) -> bool:
    """Whether two paths lead to one file."""
    try:
        return os.path.samefile(one, other)
    except (OSError, ValueError):
        return False


def refuse_long_recipe(content: bytes, path: str | os.PathLike[str]) -> None:
    """Refuse to write a recipe that could not be opened again.

    Raises
    ------
    StorageError
        It is longer than a recipe can be.
    """
    if len(content) > LONGEST_RECIPE:
        raise StorageError(
            f"{file_named(path)} would be larger than {RECIPE_CAN_BE}: it holds very many typed "
            "values. Save the rows as a table, open that, and save the recipe then."
        )


def read_text(path: str | os.PathLike[str]) -> str:
    """Read the text of a recipe, in UTF-8, or say why not."""
    return as_text(read_content(path, LONGEST_RECIPE, RECIPE_CAN_BE), path)


def as_text(content: bytes, path: str | os.PathLike[str]) -> str:
    """The text of a file, in UTF-8.

    Raises
    ------
    StorageError
        It is none.
    """
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise StorageError(
            f"{file_named(path)} is not a text in UTF-8. Check that it is the file you mean."
        ) from None


@contextmanager
def opened(path: str | os.PathLike[str], most: int | None = None) -> Iterator[OpenFile]:
    """A file that is read, of at most so many bytes.

    Raises
    ------
    StorageError
        It cannot be read.
    """
    target = Path(path)
    try:
        with OpenFile.open(target, most=most) if most else OpenFile.open(target) as file:
            yield file
    except StorageError:
        raise
    except Refusal as refusal:
        raise StorageError(str(refusal)) from None
    except OSError as error:
        raise StorageError(
            f"{file_named(target)} could not be read: {_reason(error)}. Check its name and "
            "whether you may read it."
        ) from error


def read_content(path: str | os.PathLike[str], most: int, limit: str) -> bytes:
    """The bytes of a file of at most so many; ``limit`` says in words what may not be larger.

    Raises
    ------
    StorageError
        It cannot be read, or is larger.
    """
    named = file_named(Path(path))
    with opened(path, most) as file:
        content: bytes = file.head(most + 1)
    if len(content) > most:
        raise StorageError(f"{named} is larger than {limit}. Check that it is the file you mean.")
    return content


def _mode_of(target: Path) -> int:
    """The old file's permissions, or what a new file gets."""
    if old := _kind_of(target):
        return old & 0o777
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask


def _explained(target: Path, error: OSError) -> str:
    named = file_named(target.name)
    try:
        folder = file_named(os.path.realpath(target.parent))
    except OSError:
        return (
            f"{named} could not be written: the folder that you are in is no longer there. Go "
            "to another one."
        )
    if error.errno == errno.ENOENT:
        return f"There is no folder {folder}. Choose another one, or make it first."
    if error.errno in (errno.EACCES, errno.EPERM, errno.EROFS):
        return f"{named} may not be written in {folder}. Choose another folder."
    if error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
        return f"There is no room for {named} in {folder}. Free some space or choose another disk."
    return f"{named} could not be written in {folder}: {_reason(error)}. Choose another place."


def _reason(error: OSError) -> str:
    return (error.strerror or str(error)).lower()
