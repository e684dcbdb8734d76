"""What a cell of the rows suggests to do with them."""

from rhabdos.data.columns import CategoryColumn, Column, DateColumn, NumberColumn
from rhabdos.data.problems.problems import written_code as code_of
from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.data.steps.missing import DeclareMissing, number_meant
from rhabdos.data.steps.step import Step
from rhabdos.quoting import brief
from rhabdos.wording import exact


def cell_steps(column: Column, row: int) -> list[tuple[str, Step]]:
    """The steps that a cell suggests, with their words."""
    name, label = column.name, brief(column.label)
    if isinstance(column, NumberColumn):
        value = float(column.values[row])
        if value != value:
            known = Condition(variable=name, missing=False)
            return [(f"Keep rows whose {label} is known", KeepRows(where=(known,)))]
        here = Condition(variable=name, low=value, high=value)
        written, code = exact(value), code_of(column, value)
        if isinstance(column, DateColumn):
            written = column.written(value)
            here = Condition(variable=name, levels=(written,))
            if number_meant(column, written) != value:  # parts of a second, which are not told
                return []
        return [
            (f"Count {written} as missing", DeclareMissing(variable=name, codes=(code,))),
            (f"Leave out rows of {written}", KeepRows(where=(here,), out=True)),
        ]
    if isinstance(column, CategoryColumn) and column.codes[row] >= 0:
        level = column.levels[column.codes[row]]
        here = Condition(variable=name, levels=(level,))
        return [
            (f"Keep only rows of {brief(level)}", KeepRows(where=(here,))),
            (f"Leave out rows of {brief(level)}", KeepRows(where=(here,), out=True)),
            (f"Count {brief(level)} as missing", DeclareMissing(variable=name, codes=(level,))),
        ]
    return []
