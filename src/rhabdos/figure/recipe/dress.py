"""What a figure wears: all of its look that any other figure can wear as well."""

from typing import TypeVar

from msgspec import field

from rhabdos.figure.recipe.recipe import LegendDress, Recipe
from rhabdos.figure.recipe.recipe_axes import AxesDress, AxisDress
from rhabdos.figure.recipe.recipe_look import LookDress
from rhabdos.figure.recipe.recipe_part import Part
from rhabdos.figure.recipe.recipe_words import WordsDress

LOOK_KEY = "rhabdos-look"  # of the file that holds one
_Dress = TypeVar("_Dress", bound=Part)


class Dress(Part, frozen=True):
    """The tables of a recipe, with those of their keys that say how and not what is drawn."""

    look: LookDress = field(default_factory=LookDress)
    words: WordsDress = field(default_factory=WordsDress)
    axes: AxesDress = field(default_factory=AxesDress)
    legend: LegendDress = field(default_factory=LegendDress)

    def on(self, recipe: Recipe) -> Recipe:
        """A figure that wears it; what the figure shows, says and colours of its own stays."""
        axes = recipe.axes
        return recipe.changed(
            look=_put_on(recipe.look, self.look),
            words=_put_on(recipe.words, self.words),
            axes=axes.changed(
                value=_put_on(axes.value, self.axes.value),
                height=_put_on(axes.height, self.axes.height),
                frame=self.axes.frame,
            ),
            legend=_put_on(recipe.legend, self.legend),
        )


def dress_of(recipe: Recipe) -> Dress:
    """What a figure wears."""
    axes = recipe.axes
    return Dress(
        look=_taken_off(recipe.look, LookDress),
        words=_taken_off(recipe.words, WordsDress),
        axes=AxesDress(
            value=_taken_off(axes.value, AxisDress),
            height=_taken_off(axes.height, AxisDress),
            frame=axes.frame,
        ),
        legend=_taken_off(recipe.legend, LegendDress),
    )


def _put_on(part: _Dress, worn: Part) -> _Dress:
    return part.changed(**{key: getattr(worn, key) for key in worn.__struct_fields__})


def _taken_off(part: Part, kind: type[_Dress]) -> _Dress:
    return kind(**{key: getattr(part, key) for key in kind.__struct_fields__})
