"""What a recipe wants of a table: the variables and factors whose samples it draws."""

from msgspec import Struct, structs

from rhabdos.data.gathering import gather
from rhabdos.data.reporting import Report, silent
from rhabdos.data.sample_sets import SampleSet
from rhabdos.data.table import Table, VariableError
from rhabdos.figure.recipe.recipe import MOST_VARIABLES, NUMBERS, Recipe


class Wanted(Struct, frozen=True):
    """The columns that are gathered for a figure; recipes that want the same share their samples.

    ``variables`` is "numbers" where every numeric variable is wanted.
    """

    variables: tuple[str, ...] | str
    factors: tuple[str, ...] = ()
    weight: str | None = None
    standardised: bool = False

    @property
    def words(self) -> str:
        """What is sorted, for who waits for it."""
        return self.variables if isinstance(self.variables, str) else ", ".join(self.variables[:3])


def wanted(recipe: Recipe) -> Wanted:
    """What a recipe wants."""
    show = recipe.show
    return Wanted(show.variables, recipe.factors, show.weight, show.standardised)


def gathered(
    table: Table, request: Wanted, report: Report = silent, only_looked_at: bool = False
) -> SampleSet:
    """The samples of a figure.

    Parameters
    ----------
    only_looked_at : bool
        Of data that lie elsewhere only the rows that were looked at, for now.

    Raises
    ------
    VariableError
        The table does not have what is wanted, or has more numeric variables than a figure holds.
    """
    names = request.variables
    if names == NUMBERS:
        others = {table.column(name).name for name in (*request.factors, request.weight) if name}
        names = tuple(c.name for c in table.numbers if c.n and c.name not in others)
        if not names:
            raise VariableError(f"{table.name} has no numeric variable with a value to draw.")
        if len(names) > MOST_VARIABLES:
            raise VariableError(
                f"{table.name} has {len(names):,} numeric variables, and a figure shows at most "
                f"{MOST_VARIABLES}. Name those that you want."
            )
    if table.far is not None and not only_looked_at:
        from rhabdos.data.far.gathering import gather_far  # which few sessions need

        asked = (names,) if isinstance(names, str) else names
        return gather_far(
            table, asked, request.factors, report, request.weight, request.standardised
        )
    samples = gather(table, names, request.factors, report, request.weight, request.standardised)
    return structs.replace(samples, provisional=table.rows) if table.far is not None else samples


def samples_for(recipe: Recipe, table: Table, report: Report = silent) -> SampleSet:
    """The samples that a recipe draws of a table."""
    return gathered(table, wanted(recipe), report)
