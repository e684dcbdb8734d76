"""PNG files, read again by Qt, and by hand where Qt is lenient."""

import struct
import zlib

import numpy as np
import pytest
from PyQt6.QtGui import QImage

from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.recipe.demo_recipe import demo_recipe
from rhabdos.figure.recipe.page_size import Size
from rhabdos.paint.export import image, png
from rhabdos.paint.fonts import measure
from rhabdos.paint.png import PngFile
from rhabdos.scene.build import build

pytestmark = pytest.mark.usefixtures("qapp")


def pixels(picture: QImage) -> np.ndarray:
    held = picture.convertToFormat(QImage.Format.Format_RGBA8888)
    bits = held.constBits()
    bits.setsize(held.sizeInBytes())
    return np.frombuffer(bits, np.uint8).reshape(held.height(), held.width(), 4).copy()


@pytest.mark.parametrize("channels", [3, 4])
@pytest.mark.parametrize("heights", [(1,), (64,), (65, 1, 3), (200, 129)])
def test_what_rows_are_added_is_what_is_read(channels, heights):
    of_chance = np.random.default_rng(4)
    width = 37
    parts = [of_chance.integers(0, 256, (h, width * channels), dtype=np.uint8) for h in heights]
    file = PngFile(width, sum(heights), channels, 300, {"Title": "a\nb  é 蠣"})
    for part in parts:
        file.add(part)
    picture = QImage.fromData(file.done())
    whole = np.concatenate(parts).reshape(-1, width, channels)
    assert np.array_equal(pixels(picture)[:, :, :channels], whole)
    assert picture.hasAlphaChannel() == (channels == 4)
    assert picture.dotsPerMeterX() == 11811


def test_chunks_are_as_the_standard_wants_them(tmp_path):
    of_chance = np.random.default_rng(5)
    file = PngFile(1100, 700, 3, 96, {"Title": "é", "recipe": "x" * 9_999}, packed=("recipe",))
    file.add(of_chance.integers(0, 256, (700, 3300), dtype=np.uint8))
    content, place, kinds, data = file.done(), 8, [], b""
    assert content[:8] == bytes([137, 80, 78, 71, 13, 10, 26, 10])
    while place < len(content):
        (length,) = struct.unpack(">I", content[place : place + 4])
        kind, held = content[place + 4 : place + 8], content[place + 8 : place + 8 + length]
        (told,) = struct.unpack(">I", content[place + 8 + length : place + 12 + length])
        assert told == zlib.crc32(kind + held)
        kinds.append(kind.decode())
        data += held if kind == b"IDAT" else b""
        place += 12 + length
    assert kinds[:5] == ["IHDR", "sRGB", "pHYs", "iTXt", "iTXt"]
    assert kinds[-1] == "IEND"
    assert set(kinds[5:-1]) == {"IDAT"}
    assert len(kinds) > 7  # pixels of chance cannot be packed, and fill several chunks
    assert len(zlib.decompress(data)) == 700 * 3301
    assert len(content) < 1.01 * 700 * 3301  # the long text is packed


@pytest.fixture(scope="module")
def large(demo):
    recipe = demo_recipe()
    readings = read(recipe, samples_for(recipe, demo))
    return build(readings, measure, size=Size.parse("16x10cm"))


def test_a_picture_of_several_bands_is_the_picture_painted_in_one(large):
    once, banded = image(large, 450), QImage.fromData(png(large, 450))
    assert once.width() * once.height() > 4_900_000  # more than one band
    ours, theirs = pixels(once)[:, :, :3].astype(int), pixels(banded)[:, :, :3].astype(int)
    assert ours.shape == theirs.shape
    assert np.mean(ours != theirs) < 1e-4
    assert np.abs(ours - theirs).max() <= 8  # the last bit of a smoothed edge


def test_a_picture_of_several_bands_holds_no_more_rows_than_it_says(large):
    content = png(large, 450)
    data, place = b"", 8
    while place < len(content):
        (length,) = struct.unpack(">I", content[place : place + 4])
        if content[place + 4 : place + 8] == b"IDAT":
            data += content[place + 8 : place + 8 + length]
        place += 12 + length
    wide, high = (round(side * 450 / 72) for side in large.points)
    assert len(zlib.decompress(data)) == high * (1 + 3 * wide)


def test_a_transparent_one_over_its_paper_is_the_one_on_paper(large):
    clear = pixels(QImage.fromData(png(large, 450, transparent=True))).astype(float)
    solid = pixels(QImage.fromData(png(large, 450)))[:, :, :3].astype(float)
    share = clear[:, :, 3:] / 255
    assert clear[0, 0, 3] == 0
    assert np.mean(np.abs(clear[:, :, :3] * share + 255 * (1 - share) - solid)) < 0.2
