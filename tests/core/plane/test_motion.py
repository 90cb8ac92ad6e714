import pytest
from hypothesis import given

from tests.strategies import motions, segments


@given(motions(), motions(), segments())
def test_one_motion_after_another_is_one_motion(first, second, segment):
    both = first.then(second)

    assert both.point(segment.end) == pytest.approx(
        second.point(first.point(segment.end)), abs=1e-6
    )
    assert both.mirrored == (first.mirrored != second.mirrored)
