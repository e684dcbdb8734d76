"""Teaching samples: values drawn by chance, with a question each."""

from importlib.resources import files
from pathlib import Path

from rhabdos.app.session.session import Session
from rhabdos.figure.recipe.toml_text import read_recipe


def questions() -> list[tuple[Path, str]]:
    """The recipe of each sample, and the question that is its title."""
    folder = Path(str(files("rhabdos") / "samples"))
    paths = sorted(folder.glob("*.toml"))
    return [(path, read_recipe(path.read_text("utf-8")).words.title or "") for path in paths]


def open_sample(session: Session, path: Path, _checked: bool = False) -> None:
    """Draw a sample; what is changed in it is not saved over it."""
    work = session.opening.read_recipe(path)
    if work is not None:
        session.opening.open_recipe(work, path, None)
