"""Tables copied and saved, and the figure printed: through the real dialogs."""

import pytest
from pypdf import PdfReader
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from rhabdos.app.leaving.printing import fits, print_on
from rhabdos.app.leaving.tables_dialog import TablesDialog

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def dialog(hands):
    QTest.mouseClick(hands.window.figure.foot.tables, LEFT)
    return hands.window.findChild(TablesDialog)


def test_the_summary_is_copied_as_cells(hands, dialog):
    QTest.mouseClick(dialog.copy_button, LEFT)
    content = QApplication.clipboard().mimeData()
    rows = [line.split("\t") for line in content.text().splitlines()]
    assert rows[0][:3] == ["Bay", "n", "missing"]
    assert [row[0] for row in rows[1:]] == ["Heron Sound", "Saltmere", "Wick Narrows"]
    mean = hands.readings.summaries[0].mean
    assert rows[1][3] == f"{mean:.3f}" == dialog.table.item(0, 3).text()
    QTest.mouseClick(dialog.all_digits, LEFT, pos=QPoint(8, dialog.all_digits.height() // 2))
    QTest.mouseClick(dialog.copy_button, LEFT)
    content = QApplication.clipboard().mimeData()
    rows = [line.split("\t") for line in content.text().splitlines()]
    assert rows[1][3] == f"{mean:.12g}" == dialog.table.item(0, 3).text()
    assert "<td>Saltmere</td>" in content.html()
    assert "copied: 3 rows" in hands.window.statusBar().currentMessage()


def test_every_table_is_shown_and_saved(hands, dialog, tmp_path):
    titles = [dialog.tabs.tabText(at) for at in range(dialog.tabs.count())]
    assert titles == ["Summary", "Bins", "Comparisons"]
    assert dialog.table.verticalHeader().isHidden()
    for at, title in enumerate(titles):
        dialog.tabs.setCurrentIndex(at)
        assert dialog.table.rowCount() == len(dialog.shown.rows)
        for ending in ("csv", "md", "html"):
            path = tmp_path / f"{title}.{ending}"
            dialog.save_to(path)
            assert "Saltmere" in path.read_text()
    dialog.save_to(tmp_path / "table.xlsx")
    assert "must end in .csv" in dialog.fault.text()
    dialog.save_to(tmp_path / "nowhere" / "a.csv")
    assert "no folder" in dialog.fault.text()


def test_the_figure_is_printed_in_its_true_size(hands, tmp_path):
    scene = hands.window.figure.stage.canvas.scene
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "printed.pdf"))
    assert fits(printer, scene)
    print_on(printer, scene)
    (page,) = PdfReader(tmp_path / "printed.pdf").pages
    found = {}

    def visit(text, matrix, placed, _font, _size):
        """Remember where words stand on the paper, in points."""
        if text.strip():
            found[text.strip()] = (
                placed[4] * matrix[0] + placed[5] * matrix[2] + matrix[4],
                placed[4] * matrix[1] + placed[5] * matrix[3] + matrix[5],
            )

    page.extract_text(visitor_text=visit)
    first, last = (next(m for m in scene.marks if getattr(m, "text", "") == t) for t in ("40", "100"))  # fmt: skip
    apart = found["100"][0] - found["40"][0]
    assert apart == pytest.approx(last.x - first.x, rel=0.02)


def test_print_shows_a_preview(hands):
    hands.press("Ctrl+P")
    preview = hands.window.findChild(QPrintPreviewDialog)
    assert preview.isVisible()
    preview.close()


def test_texts_that_a_spreadsheet_would_run_are_told_and_guarded(empty, tmp_path):
    path = tmp_path / "names.csv"
    path.write_text(
        "bay,length\n" + "".join(f"{'=1+2' if i % 2 else '@a'},{i}\n" for i in range(20))
    )
    empty.open(path)
    empty.window.variable_actions.choose("bay")
    empty.window.filing.show_tables()
    dialog = empty.window.findChild(TablesDialog)
    dialog.tabs.setCurrentIndex(0)
    assert dialog.formulas.isVisible()
    assert "2 texts begin as formulas do" in dialog.formulas.text()
    QTest.mouseClick(dialog.copy_button, LEFT)
    clipboard = QApplication.clipboard()
    assert {line.split("\t")[0] for line in clipboard.text().splitlines()[1:]} == {"'=1+2", "'@a"}
    QTest.mouseClick(dialog.guard, LEFT, pos=QPoint(8, dialog.guard.height() // 2))
    dialog.save_to(tmp_path / "out.csv")
    assert "\n=1+2," in (tmp_path / "out.csv").read_text()
    dialog.close()
