"""Builds the documentation as a site: ``python tools/site.py FOLDER``, with mkdocs.

The manual and docs/ are laid side by side, as they are read in the program, so that links hold.
"""

import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]
MANUAL = ROOT / "src" / "rhabdos" / "manual"
_DOCS = ("architecture.md", "licences.md", "security.md", "upgrading.md")
_OUTSIDE = ("../LICENSE", "../CONTRIBUTING.md", "../src/", "../README.md", "../CHANGELOG.md",
            "../demo/", "../tests/")  # fmt: skip
_NAV = {
    "Manual": ("index.md", "first.md", "settings.md", "keeping.md", "samples.md", "questions.md"),
    "Reference": ("methods.md", "recipe.md", "work.md", "formats.md", "far.md", "python.md",
                  "glossary.md"),
    "House": ("architecture.md", "security.md", "licences.md", "upgrading.md"),
}  # fmt: skip
_STYLE = """\
body { background: #F7F8F5; color: #1E2B2F; }
body::before, .navbar::before { display: none; }
.navbar.bg-primary { background: #2A3A40 !important; background-image: none !important; border: 0; }
a, .nav-link { color: #3D4EA1; }
.navbar a.nav-link, .navbar-brand { color: #EEF1EC !important; }
h1, h2, h3 { color: #1E2B2F; }
h1 { font-size: 2rem; }
h2 { font-size: 1.5rem; }
img { max-width: 100%; }
"""
_CONFIG = """\
site_name: Rhabdos
docs_dir: {docs}
site_dir: {site}
use_directory_urls: false
theme:
  name: mkdocs
  locale: en
  highlightjs: false
extra_css: [house.css]
plugins: [search]
markdown_extensions: [tables, fenced_code, toc]
validation:
  links: {{absolute_links: warn, not_found: warn, anchors: ignore}}
nav:
{nav}"""


def build(site: Path) -> None:
    """Build it; a link that leads nowhere is an error."""
    with tempfile.TemporaryDirectory() as folder:
        docs = Path(folder) / "docs"
        shutil.copytree(MANUAL, docs)  # links are followed
        for name in _DOCS:
            shutil.copyfile(ROOT / "docs" / name, docs / name)
        shutil.copytree(ROOT / "docs" / "screenshots", docs / "screenshots")
        for page in docs.rglob("*.md"):
            text = page.read_text(encoding="utf-8")
            # What lies beside the documents in the repository does not lie in the site.
            for outside in (
                "../LICENSE",
                "../CONTRIBUTING.md",
                "../src/",
                "../README.md",
                "../CHANGELOG.md",
                "../demo/",
                "../tests/",
            ):
                text = text.replace(f"]({outside}", "](index.md#")
            page.write_text(text, encoding="utf-8")
        (docs / "house.css").write_text(_STYLE)
        tasks = [f"tasks/{path.name}" for path in sorted((docs / "tasks").glob("*.md"))]
        nav = [
            f"  - {title}:\n" + "\n".join(f"      - {page}" for page in pages)
            for title, pages in {**_NAV, "Tasks": tasks}.items()
        ]
        config = Path(folder) / "mkdocs.yml"
        config.write_text(_CONFIG.format(docs=docs, site=site.absolute(), nav="\n".join(nav)))
        subprocess.run(
            [str(ROOT / ".venv-release" / "bin" / "mkdocs"), "build", "--strict", "--quiet", "-f",
             str(config)],
            check=True,
        )  # fmt: skip


if __name__ == "__main__":
    build(Path(sys.argv[1]))
    print(f"The site is in {sys.argv[1]}: open index.html.")
