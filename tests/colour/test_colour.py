import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from volumen.colour import oklab, srgb
from volumen.colour.difference import ciede2000

unit = st.floats(0, 1)


@given(unit, unit, unit)
def test_oklab_and_lch_come_back(r, g, b):
    lab = oklab.from_srgb([r, g, b])
    assert np.allclose(oklab.to_srgb(lab), [r, g, b], atol=1e-7)
    assert np.allclose(oklab.from_lch(oklab.to_lch(lab)), lab, atol=1e-12)


@pytest.mark.parametrize(
    ("rgb", "lab"),
    [
        ((1, 1, 1), (1.0, 0.0, 0.0)),
        # sRGB primaries as published with the definition of OKLab
        ((1, 0, 0), (0.62796, 0.22486, 0.12585)),
        ((0, 0, 1), (0.45201, -0.03246, -0.31153)),
    ],
)
def test_oklab_reference_values(rgb, lab):
    assert np.allclose(oklab.from_srgb(rgb), lab, atol=2e-4)


# Rows of the test data of Sharma, Wu and Dalal (2005): hue wrap-around, greys, large and tiny differences.
@pytest.mark.parametrize(
    ("a", "b", "expected"),
    [
        ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425),
        ((50, -1.3802, -84.2814), (50, 0, -82.7485), 1.0),
        ((50, 2.5, 0), (50, 0, -2.5), 4.3065),
        ((50, 2.5, 0), (73, 25, -18), 27.1492),
        ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
        ((2.0776, 0.0795, -1.135), (0.9033, -0.0636, -0.5514), 0.9082),
    ],
)
def test_ciede2000_reference_pairs(a, b, expected):
    assert ciede2000(a, b) == pytest.approx(expected, abs=1e-4)


@given(unit, st.floats(0, 0.4), st.floats(0, 360))
def test_fitting_into_the_gamut_keeps_lightness_and_hue(light, chroma, hue):
    rgb = oklab.lch_to_srgb([light, chroma, hue])
    assert rgb.min() >= 0
    assert rgb.max() <= 1
    fitted = oklab.to_lch(oklab.from_srgb(rgb))
    assert fitted[0] == pytest.approx(light, abs=0.01)
    if fitted[1] > 0.02:
        assert abs((fitted[2] - hue + 180) % 360 - 180) < 1.5


def test_hex():
    assert srgb.to_hex(srgb.from_hex("#1a2b3c")) == "#1a2b3c"
    assert srgb.from_hex("fff") == (1, 1, 1)
    with pytest.raises(ValueError, match="#rrggbb"):
        srgb.from_hex("sea green")
