"""Letters: how wide they are in the usual family and in others."""

import pytest

from rhabdos.paint.fonts import measure_in
from rhabdos.paint.typeface import FAMILY
from rhabdos.scene.style.lettering import face_of


def test_letters_of_another_family_are_measured_plain_unless_asked_otherwise(qapp):
    other = measure_in(FAMILY)
    assert other("Saltmere", 10.0) == other("Saltmere", 10.0, face_of(False, False))
    assert other("Saltmere", 10.0) < other("Saltmere", 10.0, face_of(True, False))
    assert other("Saltmere", 20.0) == pytest.approx(2 * other("Saltmere", 10.0))
