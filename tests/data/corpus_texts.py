"""Awkward texts, as `corpus` has awkward files: separators, names, numbers and dates as people
write them."""

from rhabdos.data.steps.reading import Read

_NUMBERED = ("columns are numbered",)
_FIXED = (
    "Name        Len  Bay\n"
    "Mary Ann    12.5 North\n"
    "Jo           3.0 South Bay\n"
    "Tom Lee          North\n"
    "Kim          4.5\n"
)
_PARTS = ("a", "number", [1, 3]), ("b", "number", [2, 4])

LAID_OUT = {
    "names in two rows, units in a third": (
        "Growth,,Site,\nweek 1,week 2,name,depth\nmm,(mm),,m\n1.5,2.5,A,3\n2.5,3.5,B,4\n1,2,A,5\n",
        None,
        [
            ("Growth week 1 (mm)", "number", [1.5, 2.5, 1]),
            ("Growth week 2 (mm)", "number", [2.5, 3.5, 2]),
            ("Site name", "category", ["A", "B", "A"]),
            ("Site depth (m)", "number", [3, 4, 5]),
        ],
        ("two rows, and units in a third",),
    ),
    "a third row that holds more than units": (
        "Growth,,Site\nweek 1,week 2,name\nmm,late,\n1.5,2.5,A\n2.5,3.5,B\n1,2,A\n",
        None,
        [
            ("Growth", "label", ["week 1", "mm", "1.5", "2.5", "1"]),
            ("Column 2", "label", ["week 2", "late", "2.5", "3.5", "2"]),
            ("Site", "category", ["name", None, "A", "B", "A"]),
        ],
        (),
    ),
    "a short first line without names": (
        "1,2\n3,4,5\n",
        None,
        [
            ("Column 1", "number", [1, 3]),
            ("Column 2", "number", [2, 4]),
            ("Column 3", "number", [None, 5]),
        ],
        ("fewer fields than the others", "line 1"),
    ),
    "a short first line, no names asked for": (
        "a,1\nb,2,7.5\n",
        Read(header=0),
        [
            ("Column 1", "category", ["a", "b"]),
            ("Column 2", "number", [1, 2]),
            ("Column 3", "number", [None, 7.5]),
        ],
        ("fewer fields",),
    ),
    "one field more far below": (
        "1,2\n" * 300 + "3,4,5\n",
        None,
        [
            ("Column 1", "number", [1] * 300 + [3]),
            ("Column 2", "number", [2] * 300 + [4]),
            ("Column 3", "number", [None] * 300 + [5]),
        ],
        ("300 rows have fewer",),
    ),
    "names of rows without a name": (
        "length,mass\nT-1,64.5,9\nT-2,61,8\n",
        None,
        [
            ("Row", "category", ["T-1", "T-2"]),
            ("length", "number", [64.5, 61]),
            ("mass", "number", [9, 8]),
        ],
        ("one field more", "“Row”"),
    ),
    "numbers of rows without a name, in blanks": (
        "length mass\n1 64.5 9\n2 61 8\n3 60 7\n",
        None,
        [
            ("Row", "number", [1, 2, 3]),
            ("length", "number", [64.5, 61, 60]),
            ("mass", "number", [9, 8, 7]),
        ],
        ("one field more",),
    ),
    "a word in a first row without names": (
        "1,2,A\n3,4,B\n5,6,A\n",
        None,
        [
            ("Column 1", "number", [1, 3, 5]),
            ("Column 2", "number", [2, 4, 6]),
            ("Column 3", "category", ["A", "B", "A"]),
        ],
        _NUMBERED,
    ),
    "a date in a first row without names": (
        "2024-01-03,A\n2024-01-14,B\n",
        None,
        [
            ("Column 1", "date/time", ["2024-01-03", "2024-01-14"]),
            ("Column 2", "category", ["A", "B"]),
        ],
        _NUMBERED,
    ),
    "years as names": (
        "site,2019,2020\nA,3,4\nB,5,6\n",
        None,
        [("site", "category", ["A", "B"]), ("2019", "number", [3, 5]), ("2020", "number", [4, 6])],
        (),
    ),
    "places in a series as names": (
        "rack,1,2,3\nx,4,5,7\ny,4,5,9\n",
        None,
        [
            ("rack", "category", ["x", "y"]),
            ("1", "number", [4, 4]),
            ("2", "number", [5, 5]),
            ("3", "number", [7, 9]),
        ],
        (),
    ),
    "a remark with a comma above two columns": (
        "# made 3 May, by hand\na,b\n1,2\n3,4\n",
        None,
        [*_PARTS],
        ("“# made 3 May”",),
    ),
    "names behind a mark": (
        "#a,b\n1,2\n3,4\n",
        None,
        [("#a", "number", [1, 3]), ("b", "number", [2, 4])],
        (),
    ),
    "colons": ("a:b\n1:2\n3:4\n", None, [*_PARTS], ("parted by colons",)),
    "carets": ("a^b\n1^2\n3^4\n", None, [*_PARTS], ("parted by carets",)),
    "tildes": ("a~b\n1~2\n3~4\n", None, [*_PARTS], ("parted by tildes",)),
    "quotes behind blanks": (
        'a, b, c\n"x", "y, z", 3\n"k", "l, m", 4\n',
        None,
        [
            ("a", "category", ["x", "k"]),
            ("b", "category", ["y, z", "l, m"]),
            ("c", "number", [3, 4]),
        ],
        (),
    ),
    "fixed places": (
        _FIXED,
        None,
        [
            ("Name", "label", ["Mary Ann", "Jo", "Tom Lee", "Kim"]),
            ("Len", "number", [12.5, 3, None, 4.5]),
            ("Bay", "category", ["North", "South Bay", "North", None]),
        ],
        ("told by their places",),
    ),
    "fixed places, asked for": (
        "ab12\ncd34\nef56\n",
        Read(places=(0, 2, 3), header=0),
        [
            ("Column 1", "label", ["ab", "cd", "ef"]),
            ("Column 2", "number", [1, 3, 5]),
            ("Column 3", "number", [2, 4, 6]),
        ],
        (),
    ),
    "prose": (
        "The quick brown\nfox jumps over\nthe lazy dog 5\nand so on and on\n",
        None,
        [("The quick brown", "label", ["fox jumps over", "the lazy dog 5", "and so on and on"])],
        (),
    ),
    "decimal commas that might be thousands": (
        "a;b\n1,234;2,345\n2,345;3,555\n",
        None,
        [("a", "number", [1.234, 2.345]), ("b", "number", [2.345, 3.555])],
        ("“1,234” was read as 1.234",),
    ),
    "thousands, asked for": (
        "a;b\n1,234;2,345\n2,345;3,555\n",
        Read(thousands=","),
        [("a", "number", [1234, 2345]), ("b", "number", [2345, 3555])],
        (),
    ),
}
"""Texts as whole files."""

# The cells of a column, the kind that it is read as, its values, and the codes of its notices.
CELLS = {
    "thousands": ("1,234|2,345|12,345", "number", [1234, 2345, 12345], ["thousands-or-decimals"]),
    "thousands and fewer": ("1,234|2,345|987", "number", [1234, 2345, 987], []),
    "thousands twice": ("1,234|2,345,678|5", "number", [1234, 2345678, 5], []),
    "decimal commas": ("1,25|2,3|4", "number", [1.25, 2.3, 4], []),
    "points between thousands": ("293|-3.777|-3.891.465", "number", [293, -3777, -3891465], []),
    "points and a currency": ("$35|$71.653.000|$386", "number", [35, 71653000, 386], []),
    "thin blanks": ("1\u2009234|12\u2009345|7", "number", [1234, 12345, 7], []),
    "dates in UTC by name": (
        "2026-03-01 08:30:00 UTC|2026-03-02T09:15Z|2026-03-02 10:00 GMT",
        "date/time",
        "2026-03-01 08:30|2026-03-02 09:15|2026-03-02 10:00",
        [],
    ),
    "dates of logs": (
        "2026-03-01 08:30:00,000|2026-03-01 08:31:00,5",
        "date/time",
        "2026-03-01 08:30|2026-03-01 08:31",
        [],
    ),
    "dates of letters": (
        "Sun, 01 Mar 2026 08:30:00 GMT|Mon, 2 Mar 2026 00:00:00 +0000",
        "date/time",
        "2026-03-01 08:30|2026-03-02",
        [],
    ),
    "days of the week": (
        "Wednesday 4 March 2026|Thurs. 5 March 2026|Sat 7 March 2026",
        "date/time",
        "2026-03-04|2026-03-05|2026-03-07",
        [],
    ),
    "lakhs": ("1,23,456|12,345|99", "number", [123456, 12345, 99], []),
    "dollars": ("$12.50|$1,300.00|-$2.00", "number", [12.5, 1300, -2], []),
    "euros": ("€9|€ 10|€ 11", "number", [9, 10, 11], []),
    "euros behind": ("9,50 €|10,00 €|1.300,00 €", "number", [9.5, 10, 1300], []),
    "books of account": ("(3.50)|4.25|1,200.00", "number", [-3.5, 4.25, 1200], ["brackets"]),
    "all in brackets": ("(1)|(2)|(3)", "label", "(1)|(2)|(3)", None),
    "two currencies": ("$5|€6|$7", "label", "$5|€6|$7", None),
    "clock times": ("09:05|10:15|23:30", "number", [9 + 5 / 60, 10.25, 23.5], ["clock-times"]),
    "spans": ("09:06:00|30:15:00|00:00:36", "number", [9.1, 30.25, 0.01], []),
    "half days": ("9:30 AM|12:00 PM|12:15 am", "number", [9.5, 12, 0.25], []),
    "short years": (
        "13/02/24|14/03/23|01/01/45",
        "date/time",
        "2024-02-13|2023-03-14|2045-01-01",
        ["short-years"],
    ),
    "firsts of months": (
        "01/02/2024|02/03/2024|03/04/2024",
        "date/time",
        "2024-02-01|2024-03-02|2024-04-03",
        ["date-order"],
    ),
    "the same in both orders": (
        "01/01/2024|02/02/2024|03/03/2024",
        "date/time",
        "2024-01-01|2024-02-02|2024-03-03",
        [],
    ),
    "twelve-hour clocks": (
        "1/2/2024 9:05 AM|1/13/2024 10:07 PM|1/14/2024 12:00 AM",
        "date/time",
        "2024-01-02 09:05|2024-01-13 22:07|2024-01-14",
        [],
    ),
    "zones": (
        "2024-01-02 09:05+02|2024-01-02T00:30:01-0530|2024-01-03 01:00Z",
        "date/time",
        "2024-01-02 07:05|2024-01-02 06:00:01|2024-01-03 01:00",
        ["time-zones"],
    ),
    "all in one zone": (
        "2024-01-02T09:05Z|2024-01-02T10:00+00:00",
        "date/time",
        "2024-01-02 09:05|2024-01-02 10:00",
        [],
    ),
    "named months": (
        "2-Jan-2024|3-Sept-2024|14-December-2024",
        "date/time",
        "2024-01-02|2024-09-03|2024-12-14",
        [],
    ),
    "months": ("2024-01|2024-02|2024-12", "date/time", "2024-01-01|2024-02-01|2024-12-01", []),
    "months by name": (
        "Jan 2024|Feb 2024|March 2024",
        "date/time",
        "2024-01-01|2024-02-01|2024-03-01",
        [],
    ),
    "some with times": (
        "2024-01-02|2024-01-03 10:15|2024-01-03T10:15:02",
        "date/time",
        "2024-01-02|2024-01-03 10:15|2024-01-03 10:15:02",
        [],
    ),
    "numbers of articles": ("4711-05|4712-06|9999-07", "label", "4711-05|4712-06|9999-07", []),
    "years of old": ("0024-05-01|0025-06-01|0026-07-01", "label", None, None),
}
