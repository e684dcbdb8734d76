"""Another colour or word to paint; and a large picture for print."""

from benchmarks.timing import Report, painting, side_by_side


def run(report: Report) -> None:
    dressed(report)
    exported(report)


def dressed(report: Report) -> None:
    """From another palette, or another title, to the figure painted: against painting it."""
    from PyQt6.QtGui import QImage, QPainter

    from rhabdos.data.demo import demo_table
    from rhabdos.data.gathering import gather
    from rhabdos.figure.forms.read import read
    from rhabdos.figure.recipe.demo_recipe import demo_recipe
    from rhabdos.figure.recipe.recipe import Recipe
    from rhabdos.paint.fonts import measure_for
    from rhabdos.paint.painter import paint
    from rhabdos.scene.build import build
    from rhabdos.scene.marks import Scene

    painting()
    recipe = demo_recipe().showing(forms=("bars", "curve", "box"))
    gathered = gather(demo_table(), "Shell length", "Bay")
    picture = QImage(1280, 800, QImage.Format.Format_RGB32)

    def painted(scene: Scene) -> None:
        painter = QPainter(picture)
        painter.scale(1280 / scene.width, 1280 / scene.width)
        paint(scene, painter, live=True)
        painter.end()

    def shown(wanted: Recipe) -> Scene:
        return build(read(wanted, gathered), measure_for(wanted))

    scene = shown(recipe)
    palettes = [recipe.looking(palette=name) for name in ("reef", "kelp", "dusk")]
    titles = [recipe.worded(title=f"Shells of {n} bays") for n in range(50)]
    for what, wishes in (("a change of colour", palettes), ("a change of word", titles)):
        turn = iter(wishes * 2_000)
        taken, bare = side_by_side(
            lambda turn=turn: painted(shown(next(turn))), lambda: painted(scene), rounds=41
        )
        report.ratio(f"{what} to paint", taken, bare, 2, "painting the figure")


def exported(report: Report) -> None:
    """A page of 30 × 20 cm at 600 dots an inch as PNG: against painting it."""
    from PyQt6.QtGui import QImage, QPainter

    from rhabdos.data.demo import demo_table
    from rhabdos.data.gathering import gather
    from rhabdos.figure.forms.read import read
    from rhabdos.figure.recipe.demo_recipe import demo_recipe
    from rhabdos.figure.recipe.page_size import Size
    from rhabdos.paint.export import png
    from rhabdos.paint.fonts import measure
    from rhabdos.paint.painter import paint
    from rhabdos.scene.build import build

    painting()
    readings = read(demo_recipe(), gather(demo_table(), "Shell length", "Bay"))
    scene = build(readings, measure, size=Size.parse("30x20cm"))
    wide, high = (round(side * 600 / 72) for side in scene.points)

    def bare() -> None:
        """Paint it in one go, and no more."""
        picture = QImage(wide, high, QImage.Format.Format_RGB32)
        picture.fill(0xFFFFFFFF)
        painter = QPainter(picture)
        painter.scale(wide / scene.width, high / scene.height)
        paint(scene, painter)
        painter.end()

    taken, alone = side_by_side(lambda: png(scene, 600, recipe="rhabdos = 1"), bare, rounds=11)
    report.ratio(
        "a PNG of 30 x 20 cm at 600 dots per inch", taken, alone, 1.5, "painting it, unpacked"
    )
