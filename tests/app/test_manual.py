"""The manual, the tour and the teaching samples."""

import re

import numpy as np
import pytest
from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QDesktopServices, QImage, QTextDocument
from PyQt6.QtTest import QTest
from tools.manual import draw_recipe, recipes

from rhabdos.app.arriving.teaching import open_sample, questions
from rhabdos.app.shell.manual_window import ManualWindow, anchor_of, manual_folder, page_names
from rhabdos.app.shell.tour import DEEDS, Tour, take_tour
from rhabdos.figure.phrases import PHRASES

_FOLDER = manual_folder()
_PAGES = sorted(path for path in _FOLDER.rglob("*.md") if not path.is_symlink())
_EIGHTEEN = 18
_UNLIKE = 0.002  # of all pixels, which another version of a library may set otherwise


def _drawn(path):
    image = QImage(str(path)).convertToFormat(QImage.Format.Format_RGBA8888)
    bits = image.constBits()
    bits.setsize(image.sizeInBytes())
    kept = np.frombuffer(bits, np.uint8).reshape(image.height(), image.bytesPerLine())
    return kept.astype(int)  # what the picture holds goes with it


@pytest.mark.parametrize(
    ("name", "text"), [(name, text) for _, name, text in recipes()], ids=lambda each: each[:20]
)
def test_every_recipe_of_the_manual_draws_the_picture_beside_it(qapp, tmp_path, name, text):
    """Otherwise: make manual."""
    path = tmp_path / "drawn.png"
    assert draw_recipe(text, path) == 0
    there, drawn = _drawn(_FOLDER / "pictures" / f"{name}.png"), _drawn(path)
    assert there.shape == drawn.shape
    unlike = float(np.mean(np.abs(there - drawn) > 24))
    assert unlike < _UNLIKE


def test_each_job_has_a_page_and_each_setting_a_picture():
    assert len([page for page in _PAGES if page.parent.name == "tasks"]) == _EIGHTEEN
    assert len(list(recipes())) == _EIGHTEEN
    settings = (_FOLDER / "settings.md").read_text()
    for key in PHRASES:
        assert f"pictures/setting-{key.replace('_', '-')}.png" in settings


@pytest.mark.parametrize("page", _PAGES, ids=lambda page: page.stem)
def test_links_and_pictures_lead_somewhere(page):
    text = page.read_text()
    for link in re.findall(r"\]\(([^)]+)\)", text):
        path, _, anchor = link.partition("#")
        target = (page.parent / path) if path else page
        assert target.exists(), link
        if anchor:
            headings = re.findall(r"^#+ (.*)$", target.read_text(), re.MULTILINE)
            assert anchor in map(anchor_of, headings), link


def test_every_page_is_named_on_the_first_and_every_picture_is_shown():
    named = set(page_names(_FOLDER))
    assert {str(page.relative_to(_FOLDER)) for page in _PAGES} <= named
    shown = {
        name for page in _PAGES for name in re.findall(r"pictures/([\w-]+\.png)", page.read_text())
    }
    assert shown == {path.name for path in (_FOLDER / "pictures").glob("*.png")}


def test_keys_that_are_named_are_those_of_the_menus(hands):
    from rhabdos.app.shell.help_boxes import actions_with_keys

    known = {key.toString() for a in actions_with_keys(hands.window) for key in a.shortcuts()}
    known |= {"Shift+Enter", "F1", "Ctrl+F1"}
    for page in _PAGES:
        for keys in re.findall(r"\b((?:Ctrl|Alt|Shift)\+[\w+]+|F\d+)\b", page.read_text()):
            assert keys in known, (page.name, keys)


def test_pages_are_found_by_their_words_and_links_are_followed(hands, monkeypatch):
    hands.window.menus.places.window()  # the window is there
    manual = ManualWindow(hands.window)
    manual.show()
    assert manual.page.toPlainText().startswith("Manual")
    every = manual.found.count()
    QTest.keyClicks(manual.search, "whisker minimum")
    titles = [manual.found.item(row).text() for row in range(manual.found.count())]
    assert "Questions people ask" in titles
    assert len(titles) < every
    QTest.keyClick(manual.search, Qt.Key.Key_Return)
    assert manual.page.source().fileName().endswith(".md")
    manual.search.clear()
    QTest.keyClicks(manual.search, "xyzzy")
    assert manual.nothing.isVisible()
    manual.show_page("questions.md")
    manual.follow(QUrl("methods.md#quantiles-and-hinges"))
    assert manual.page.source().fileName() == "methods.md"
    assert manual.page.textCursor().block().text() == "Quantiles and hinges"
    assert manual.back.isEnabled()
    image = QTextDocument.ResourceType.ImageResource.value
    picture = manual.page.loadResource(image, QUrl("pictures/window.png"))
    assert isinstance(picture, QImage)
    assert picture.width() == 640
    opened = []
    monkeypatch.setattr(QDesktopServices, "openUrl", opened.append)
    manual.follow(QUrl("https://example.invalid/x"))
    assert [url.host() for url in opened] == ["example.invalid"]
    manual.close()


def test_nothing_outside_the_manual_is_shown(hands, tmp_path):
    manual = ManualWindow(hands.window)
    other = tmp_path / "secret.md"
    other.write_text("secret")
    manual.follow(QUrl.fromLocalFile(str(other)))
    assert "secret" not in manual.page.toPlainText()
    manual.close()


def test_the_tour_goes_on_with_each_deed_and_ends(hands):
    tour = take_tour(hands.window)
    for number in range(len(DEEDS)):
        assert tour.at == number
        assert tour.place.text() == f"{number + 1} of 6"
        QTest.mouseClick(tour.show_me, Qt.MouseButton.LeftButton)
    assert tour.title.text() == "Done"
    assert tour.leave.text() == "Close"
    QTest.mouseClick(tour.leave, Qt.MouseButton.LeftButton)
    hands.qtbot.waitUntil(lambda: not hands.window.findChildren(type(tour)))
    assert hands.window.session.recipe.words.title == "Two harvests a year"


def test_deeds_of_the_tour_are_done_by_the_hands_of_who_takes_it(hands):
    tour = take_tour(hands.window)
    side = hands.window.figure.side
    QTest.mouseClick(side.parts.buttons["forms"], Qt.MouseButton.LeftButton)
    ticks = side.panel("forms").ticks
    ticks["box"].click()
    hands.qtbot.waitUntil(lambda: tour.at == 1)
    hands.press("Ctrl+Z")
    hands.qtbot.waitUntil(lambda: tour.at == 2)
    hands.press("Ctrl+R")
    QTest.keyClick(hands.window.figure.stage.rod, Qt.Key.Key_Up)
    hands.qtbot.waitUntil(lambda: tour.at == 3)
    hands.press("Ctrl+Z")
    assert tour.at == 3
    QTest.keyClick(tour, Qt.Key.Key_Escape)  # left in the midst
    hands.qtbot.waitUntil(lambda: not hands.window.findChildren(type(tour)))


def test_what_was_open_before_the_tour_comes_back_by_an_undo(hands, tmp_path):
    path = tmp_path / "mine.csv"
    path.write_text("x\n" + "\n".join(map(str, range(40))))
    hands.open(path)
    tour = take_tour(hands.window)
    assert hands.window.session.table.rows == 2_416
    hands.press("Ctrl+Z")
    hands.qtbot.waitUntil(lambda: hands.window.session.table.rows == 40)
    tour.close()


def test_teaching_samples_ask_a_question_and_are_not_saved_over(hands):
    asked = questions()
    assert len(asked) == 6
    assert all(question.endswith("?") for _, question in asked)
    text = (_FOLDER / "samples.md").read_text()
    for path, question in asked:
        assert f"| {question} |" in text
        before = path.read_bytes()
        open_sample(hands.window.session, path)
        hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running())
        assert hands.window.session.recipe.words.title == question
        assert hands.window.filing.recipe_path is None
        assert path.read_bytes() == before


def test_the_questions_have_the_answers_that_the_manual_gives(hands):
    session = hands.window.session
    samples = {path.stem: path for path, _ in questions()}

    def drawn(name):
        open_sample(session, samples[name])
        hands.qtbot.waitUntil(lambda: not session.runner.running())
        return session.readings

    spread = [np.std(s.values) for s in drawn("2-spread").samples.samples]
    assert spread[1] > 1.8 * spread[0]
    new, old = (s.values for s in drawn("3-unequal").samples.samples)
    assert len(old) > 5 * len(new)
    assert new.mean() > old.mean()
    tail = drawn("4-tail").samples.samples[0].values
    assert tail.mean() > 1.25 * np.median(tail)
    monday, tuesday = (s.values for s in drawn("6-chance").samples.samples)
    gap, error = monday.mean() - tuesday.mean(), np.sqrt(monday.var() / 25 + tuesday.var() / 25)
    assert abs(gap) < 2 * error


def test_the_empty_window_offers_the_tour(empty):
    QTest.mouseClick(empty.window.figure.stage.welcome.tour_button, Qt.MouseButton.LeftButton)
    empty.qtbot.waitUntil(lambda: empty.window.session.table is not None)
    (tour,) = empty.window.findChildren(Tour)
    assert tour.isVisible()
    assert tour.at == 0
