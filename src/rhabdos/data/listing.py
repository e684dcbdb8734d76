"""The variables of a table as plain data, for scripts and for the eye."""

import json
from typing import Any

from rhabdos.data.columns import CategoryColumn
from rhabdos.data.problems.problems import problems_in
from rhabdos.data.table import Table
from rhabdos.quoting import shortened_to

_LONGEST = 100  # letters of a name in a list


def variables_data(table: Table) -> list[dict[str, Any]]:
    """The variables of a table, as ``rhabdos variables`` prints them."""
    described = []
    for column in table.columns:
        levels: list[dict[str, Any]] = []
        if isinstance(column, CategoryColumn):
            levels = [
                {"value": v, "n": int(n)}
                for v, n in zip(column.levels, column.level_counts, strict=True)
            ]
        described.append(
            {
                "name": column.name,
                "kind": column.kind,
                "n": column.n,
                **({"looked_at": True} if column.some else {}),
                "missing": column.missing,
                "levels": levels,
                "label": column.label,
                "unit": column.unit,
                "missing_as": dict(column.missing_as),
                "problems": [
                    {"code": problem.code, "text": problem.text, "n": problem.n}
                    for problem in problems_in(table, column)
                ],
            }
        )
    return described


def variables_json(table: Table) -> str:
    """The variables of a table as JSON."""
    return json.dumps(variables_data(table), ensure_ascii=False, indent=1)


def variables_text(table: Table) -> str:
    """One line a variable, aligned."""
    lines = [["name", "kind", "n", "missing", "levels"]]
    for variable in variables_data(table):
        levels = ", ".join(
            f"{shortened_to(_LONGEST, level['value'])} ({level['n']:,})"
            for level in variable["levels"][:8]
        )
        more = f", and {len(variable['levels']) - 8:,} more" if len(variable["levels"]) > 8 else ""
        lines.append(
            [
                shortened_to(_LONGEST, variable["name"]),
                variable["kind"],
                f"{variable['n']:,}{' looked at' if variable.get('looked_at') else ''}",
                f"{variable['missing']:,}",
                levels + more,
            ]
        )
    widths = [max(len(line[i]) for line in lines) for i in range(5)]
    right = (2, 3)
    return "\n".join(
        "  ".join(
            cell.rjust(w) if i in right else cell.ljust(w)
            for i, (cell, w) in enumerate(zip(line, widths, strict=True))
        ).rstrip()
        for line in lines
    )
