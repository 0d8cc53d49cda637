"""A CMYK output profile in the place of the built-in separation: exact, checked at the door, kept with the job."""

import io

import numpy as np
import pytest
from PIL import Image, ImageCms
from tests.conftest import artwork, badge
from tests.icc_maker import cmyk_profile, inks_by_formula

from swaddon.core.colour.spaces import lab_from_srgb8
from swaddon.core.errors import PlanError
from swaddon.core.inks.separation import NODES, interpolate
from swaddon.core.inks.settings import IccChoice
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import make_plan
from swaddon.io import profiles
from swaddon.io.icc import IccFile, checked, described, output_table, read_icc
from swaddon.session import edits
from swaddon.session.job import ArtworkFile, Job, request_for
from swaddon.session.storage import open_job, save_job

FILE = IccFile("press.icc", cmyk_profile())
PLAIN = IccChoice(FILE.name, FILE.digest, "relative", False)


def test_the_table_is_what_the_profiles_formula_says():
    table = output_table(FILE, PLAIN)
    axis = np.linspace(0, 255, NODES)
    rgb = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1)
    wanted = inks_by_formula(lab_from_srgb8(rgb)) * 255
    off = np.abs(table - wanted)[:-1]
    assert off.mean() < 0.35
    assert np.percentile(off, 99) < 2.0


def test_it_is_what_pillows_littlecms_says():
    """The same engine in 8 bits, by another way in; its own grid apart, ours is read between nodes."""
    rng = np.random.default_rng(3)
    rgb = rng.integers(0, 256, (1, 4000, 3), np.uint8)
    transform = ImageCms.buildTransform(
        ImageCms.createProfile("sRGB"), ImageCms.ImageCmsProfile(io.BytesIO(FILE.data)), "RGB", "CMYK",
        ImageCms.Intent.RELATIVE_COLORIMETRIC,
    )  # fmt: skip
    reference = np.asarray(ImageCms.applyTransform(Image.fromarray(rgb), transform))[0].astype(float)
    off = np.abs(interpolate(output_table(FILE, PLAIN), rgb[0]) - reference)
    assert np.median(off) <= 1.0
    assert np.percentile(off, 97) < 5.0


def test_white_prints_nothing_and_intents_differ():
    table = output_table(FILE, PLAIN)
    assert not table[-1, -1, -1].any()
    with_black_point = output_table(FILE, IccChoice(FILE.name, FILE.digest, "relative", True))
    assert with_black_point.shape == table.shape


def plan_with(choice, icc=FILE):
    press = profiles.shipped("film")
    settings = PlanSettings(width_mm=20.0, icc=choice)
    return make_plan(request_for(artwork(badge()), settings, press, icc=icc))


def test_a_plan_is_separated_by_it(compiled):
    plan = plan_with(PLAIN)
    red = np.argwhere((plan.art[..., :3] == (200, 30, 40)).all(axis=2) & (plan.art[..., 3] == 255))[0]
    wanted = inks_by_formula(lab_from_srgb8(np.array([200, 30, 40]))) * 255
    assert plan.cmyk[tuple(red)].astype(float) == pytest.approx(wanted, abs=4)
    other = plan_with(None, None)
    assert not np.array_equal(plan.cmyk, other.cmyk)
    assert plan.keys["table"] != other.keys["table"]


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "no ICC profile, or is damaged"),
        (b"\0" * 200, "no ICC profile, or is damaged"),
        (cmyk_profile()[:700], "damaged|cannot be used|no table"),
        (ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes(), "is an RGB display profile"),
        (cmyk_profile(kind=b"scnr"), "is a CMYK input profile"),
    ],
)
def test_what_does_not_separate_is_refused_with_its_reason(data, says):
    with pytest.raises(PlanError, match=says):
        checked(IccFile("other.icc", data))


def test_a_file_that_is_none_is_told(tmp_path):
    with pytest.raises(PlanError, match="cannot be read"):
        read_icc(tmp_path / "none.icc")
    (tmp_path / "own.icc").write_bytes(FILE.data)
    assert read_icc(tmp_path / "own.icc").digest == FILE.digest
    assert described(FILE) == "Made for a test"


def test_it_travels_with_the_job(tmp_path, compiled):
    data = io.BytesIO()
    Image.fromarray(badge()).save(data, "PNG")
    job = Job(file=ArtworkFile(artwork(badge()), data.getvalue()), profile=profiles.shipped("film"))
    job = edits.set_icc(FILE).change(job)
    job = edits.change("icc.intent", "perceptual").change(job)
    save_job(tmp_path / "job.swaddon", job)
    again = open_job(tmp_path / "job.swaddon")
    assert again.icc == FILE
    assert again.settings.icc == job.settings.icc
    assert again.settings.icc.intent == "perceptual"
    back = edits.set_icc(None).change(again)
    assert back.settings.icc is None
    save_job(tmp_path / "job.swaddon", back)
    assert open_job(tmp_path / "job.swaddon").icc is None


def test_a_press_without_black_lets_it_go():
    job = edits.set_icc(FILE).change(Job(profile=profiles.shipped("toner-onepass")))
    assert edits.set_profile(profiles.shipped("toner-no-black")).change(job).settings.icc is None
    assert edits.set_profile(profiles.shipped("film")).change(job).settings.icc is not None


def test_damaged_profiles_are_refused_or_used_and_nothing_else():
    """Bytes turned over at random: LittleCMS refuses some tables only when they are asked for."""
    import random

    chance, base = random.Random(5), cmyk_profile()
    for _ in range(150):
        data = bytearray(base)
        for _ in range(chance.choice((1, 3, 20))):
            data[chance.randrange(600 if chance.random() < 0.7 else len(data))] = chance.randrange(256)
        choice = IccChoice("x.icc", "0", chance.choice(("perceptual", "relative", "saturation", "absolute")))
        try:
            table = output_table(checked(IccFile("x.icc", bytes(data))), choice)
        except PlanError:
            continue
        assert np.isfinite(table).all()
        assert 0 <= table.min() <= table.max() <= 255
