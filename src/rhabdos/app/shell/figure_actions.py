"""What hands do in the figure and beside it, as changes of its recipe."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from msgspec import structs
from PyQt6.QtCore import QPoint

from rhabdos.app.controls.dialog_layout import pause
from rhabdos.app.panels.group_actions import bring_forward, level_of, move_level
from rhabdos.app.session.session import Session
from rhabdos.app.session.surroundings import Surroundings
from rhabdos.app.shell.figure_place import FigurePlace
from rhabdos.figure.edits.drag_edits import place_dragged
from rhabdos.figure.phrases import phrase_of
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.readings.reference import compared_with
from rhabdos.figure.recipe.recipe import Boxes, Curves, Recipe
from rhabdos.figure.recipe.recipe_axes import Axes
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.lazy import lazy
from rhabdos.quoting import brief
from rhabdos.scene.marks import Meaning

if TYPE_CHECKING:
    from rhabdos.app.paper.range_actions import RangeActions
    from rhabdos.app.paper.words_actions import WordsActions
    from rhabdos.app.rods.bell import Bell
    from rhabdos.app.rods.ends import Ends
    from rhabdos.app.rods.reach import Reach

_REST = 150  # milliseconds that a range rests before its rows are listed
_A_LITTLE = 6.0  # points to which the value of a new text is round
_WRITTEN_AT = 0.85  # of the frame's height


class FigureActions:
    """Takes what a hand does to the figure, its words and its rods to the session."""

    def __init__(self, session: Session, place: FigurePlace, around: Surroundings) -> None:
        self._session, self._place, self._around = session, place, around
        stage, canvas = place.stage, place.stage.canvas
        canvas.part_clicked.connect(self._click)
        canvas.words_clicked.connect(self._type_over)
        canvas.swatch_clicked.connect(self._pick_colour)
        canvas.given_up.connect(session.end_preview)
        canvas.text_placed.connect(lambda *where: self.words.place(*where))
        canvas.range_hand.changed.connect(lambda: self.ranges.follow())
        canvas.level_moved.connect(partial(move_level, session))
        canvas.level_asked.connect(self._offer_level)
        canvas.read.connect(lambda _stop: place.foot.mark_group(canvas.read_group))
        place.foot.group_pointed.connect(self._point_at_group)
        place.foot.rows_read = canvas.rows_of_range
        place.foot.row_opened.connect(self._show_row)
        self._rows_follow = pause(place, _REST, self._list_rows)
        canvas.range_hand.changed.connect(self._rows_follow.start)
        stage.rod.moved.connect(self._preview_bins)
        stage.rod.part_asked.connect(self._ask_bins)
        stage.rod.held.connect(self._let_go)
        stage.rod_made.connect(self._connect_rod)
        place.side.writing_asked.connect(self.write_in_figure)

    def hear_seen(self, sentences: str) -> None:
        """What the data show belongs to what is heard of the figure."""
        self._place.stage.canvas.heard.show_seen(sentences)

    @lazy
    def words(self) -> "WordsActions":
        """What a hand wishes of the words in the figure."""
        from rhabdos.app.paper.words_actions import WordsActions

        return WordsActions(self._session, self._place.stage.canvas)

    @lazy
    def ranges(self) -> "RangeActions":
        """What a hand wishes of a range that it marks."""
        from rhabdos.app.paper.range_actions import RangeActions

        return RangeActions(self._session, self._place.stage.canvas)

    # Parts and words

    def _click(self, meaning: Meaning, more: bool) -> None:
        """Choose the phrase of a part of the figure, and bring the group forward that is there."""
        phrase, readings = phrase_of(meaning.part), self._session.readings
        self._around.choose_phrase(phrase)
        if readings is not None and phrase not in ("look", "words"):
            level = level_of(readings, meaning)
            self._place.side.panel(phrase).choose_part(meaning.part, level)
        if meaning.part not in ("text", "range"):
            bring_forward(self._session, meaning, more)

    def _point_at_group(self, group: int) -> None:
        """Bring a group forward while the mouse is on its row."""
        readings, recipe = self._session.readings, self._session.recipe
        if readings is None or recipe is None or group >= len(readings.groups):
            return
        if group < 0 or len(readings.groups) < 2:
            self._session.end_preview()
            return
        levels = tuple(level for _, level in readings.groups[group].levels if level is not None)
        if levels and not recipe.groups.forward:
            self._session.preview(recipe.grouped(forward=levels))

    def _list_rows(self) -> None:
        """Let the rows at the foot be those of the range that is read."""
        if self._place.foot.face == "rows":
            self._place.foot.show_numbers(self._session.readings)

    def _show_row(self, row: int) -> None:
        """Mark in the figure where the value of a row lies."""
        if (readings := self._session.readings) is not None:
            self._place.stage.canvas.point_at(readings.variable.name, row)

    def _offer_level(self, level: str, place: QPoint) -> None:
        """What can be done with a level that was clicked in the legend by the right button."""
        from rhabdos.app.controls.choices import Choices
        from rhabdos.figure.edits.level_edits import brought_forward, left_out, level_lists

        readings = self._session.readings
        if readings is None:
            return
        recipe, menu = readings.recipe, Choices(self._place)
        menu.offer("Bring it forward", lambda: self._session.ask(*brought_forward(recipe, level)))
        settings = compared_with(readings)
        groups = [group for group in readings.groups if group.label == level and group.n]
        if groups and readings.divided is not None and settings.reference != level:
            other = recipe.changed(compare=settings.changed(reference=level))
            words = f"Compare with {brief(level)}"
            menu.offer("Compare the others with it", lambda: self._session.ask(words, other))
        listed = next(
            (e for a in level_lists(readings) for e in a.levels if e.label == level), None
        )
        if listed is not None:
            menu.offer("Leave it out", lambda: self._session.ask(*left_out(recipe, listed)))
        menu.open_at(place)

    def _type_over(self, meaning: Meaning) -> None:
        """Let words of the figure be typed where they stand, and show how they are set."""
        if meaning.part == "range" and meaning.level is not None:
            self._place.stage.canvas.range_hand.open_kept(int(meaning.level))
        else:
            self._place.side.panel("words").choose_part(meaning.part, meaning.level)
        self.words.type_over(meaning)

    def _pick_colour(self, level: str) -> None:
        """Let the colour of a level be picked that was clicked in the legend."""
        self._around.choose_phrase("look")
        self._place.side.panel("look").choose_part("swatch", level)

    def write_in_figure(self) -> None:
        """Place a text in the figure, and type it."""
        scene = self._place.stage.canvas.scene
        if scene is not None:
            frame = scene.frame
            middle = (frame.start + frame.end) / 2
            per_pixel = frame.units_over(middle, _A_LITTLE)
            value = place_dragged(frame.value(middle), per_pixel, frame.low, frame.high)
            self.words.write_here(value, _WRITTEN_AT)

    # Phrases

    def open_alternatives(self, phrase: Key, at: QPoint, aside: Callable[[str], None]) -> None:
        """Open what else a phrase could say; ``aside`` does what is no other figure."""
        from rhabdos.app.sentence.alternatives import alternatives

        if self._session.document.chart is not None:
            self._place.chart_view.open_alternatives(phrase, at)
            return
        self._around.choose_phrase(phrase)
        readings = self._session.readings
        if not readings:
            return
        menu = alternatives(phrase, readings, self._session.ask, aside, self._place)
        if menu is None:
            if not self._place.isVisible():
                self._around.go_to("figure")
            self._place.fold("settings", False)
            self._place.side.panel(phrase).begin()
        else:
            menu.open_at(at)

    def every_row_again(self) -> None:
        """Strike out all steps that keep rows."""
        from rhabdos.data.steps.keep import KeepRows

        steps = self._session.document.steps
        rest = tuple(structs.replace(s, off=True) if isinstance(s, KeepRows) else s for s in steps)
        self._session.rows.ask_steps("All rows again", rest)

    # Rods

    def take_hold(self) -> None:
        """Take the keys to the rod."""
        if rod := self._place.stage.held_rod:
            rod.setFocus()

    def _let_go(self, held: bool) -> None:
        if not held:
            self._session.end_preview()

    def _connect_rod(self, rod: "Bell | Reach | Ends") -> None:
        rod.moved.connect(lambda part: self._session.preview(self._with(part)))
        rod.part_asked.connect(lambda part, name: self._session.ask(name, self._with(part)))
        rod.held.connect(self._let_go)

    def _with(self, part: Curves | Boxes | Axes) -> Recipe:
        assert self._session.recipe
        if isinstance(part, Curves):
            return self._session.recipe.changed(curve=part)
        if isinstance(part, Axes):
            return self._session.recipe.changed(axes=part)
        return self._session.recipe.changed(box=part)

    def _preview_bins(self, bins: Bins) -> None:
        if recipe := self._session.recipe:
            self._session.preview(recipe.binned(bins.changed(shared=recipe.bins.shared)))

    def _ask_bins(self, bins: Bins, name: str) -> None:
        if recipe := self._session.recipe:
            self._session.ask(name, recipe.binned(bins.changed(shared=recipe.bins.shared)))
