"""Inks from measured charts: open characterisation tables, known inks found again, spectra, and what is refused."""

import re
import tomllib
import warnings
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from tests.conftest import badge
from typer.testing import CliRunner

from swaddon.cli import app
from swaddon.core.colour.spaces import (
    bands_from_srgb8,
    delta_e_2000,
    lab_from_bands,
    lab_from_xyz,
    linear_from_srgb,
    srgb8_from_bands,
    srgb_from_linear,
    xyz_from_lab,
)
from swaddon.core.errors import PlanError
from swaddon.core.inks.fitting import fit_inks
from swaddon.core.inks.inverse import solved, target_lab
from swaddon.core.inks.separation import covered, transmittance
from swaddon.core.proof.optics import Appearance, seen, seen_bands
from swaddon.io import profiles
from swaddon.io.cgats import parse_chart, read_chart, xyz_of_spectra

DATA = Path(__file__).parents[2] / "data"
GAIN = tuple(tuple(np.round(np.linspace(0, 1, 11) + g * 4 * np.linspace(0, 1, 11) * np.linspace(1, 0, 11), 4))
             for g in (0.16, 0.14, 0.12, 0.18))  # fmt: skip
FILM = profiles.shipped("film").separation


@pytest.mark.parametrize(
    ("name", "mean", "p95"),
    [("FOGRA39L", 0.85, 1.7), ("FOGRA29L", 0.8, 1.5), ("TR002", 0.75, 1.5)],
)
def test_open_tables_are_fitted_and_the_held_out_patches_too(name, mean, p95):
    """FOGRA39L (Fogra, 2006), FOGRA29L (Fogra, 2003), ANSI CGATS TR 002 (2007): coated, uncoated, newsprint."""
    chart = read_chart(DATA / f"{name}.ti3")
    fitted = fit_inks(chart.cmyk, chart.xyz)
    assert fitted.held_out > 150
    assert fitted.mean_de < mean
    assert fitted.p95_de < p95
    assert fitted.held_mean_de < mean * 1.1
    assert fitted.held_p95_de < p95 * 1.15
    paper = chart.xyz[(chart.cmyk == 0).all(axis=1)].mean(axis=0)
    measured = lab_from_xyz(chart.xyz / paper * np.array([0.9642, 1.0, 0.8249]))
    apart = delta_e_2000(fitted.seen(chart.cmyk), measured)
    assert apart.mean() == pytest.approx((fitted.mean_de * (len(apart) - fitted.held_out)
                                          + fitted.held_mean_de * fitted.held_out) / len(apart), abs=0.02)  # fmt: skip


def chart_of_known_inks(patches=600, seed=2):
    rng = np.random.default_rng(seed)
    corners = np.array([[index >> bit & 1 for bit in range(4)] for index in range(16)], float)
    ramps = np.concatenate([np.eye(4)[ink] * step for ink in range(4) for step in np.linspace(0.1, 0.9, 9)[:, None]])
    cmyk = np.concatenate([corners, ramps.reshape(-1, 4), rng.choice(np.linspace(0, 1, 11), (patches, 4))])
    bands = transmittance(covered(cmyk, GAIN), FILM.primaries(), 2.0)
    return cmyk, np.asarray(xyz_from_lab(lab_from_bands(bands)))


def test_known_inks_with_dot_gain_are_found_again():
    cmyk, xyz = chart_of_known_inks()
    fitted = fit_inks(cmyk, xyz)
    assert fitted.yule_nielsen_n == 2.0
    assert fitted.mean_de < 0.05
    assert np.abs(np.array(fitted.curves) - np.array(GAIN)).max() < 0.01
    assert delta_e_2000(fitted.primaries_lab, np.array(FILM.primaries_lab)).max() < 0.3


@pytest.mark.parametrize(
    ("keep", "says"),
    [
        (slice(0, 12), "has 12 patches: at least 40"),
        (lambda c: c.any(axis=1), "no patch without ink"),
        (lambda c: c[:, 1] < 0.95, "no patch with full M"),
        (lambda c: (c > 0).sum(axis=1) < 2, "overprints apart"),
    ],
)
def test_a_chart_that_tells_too_little_is_refused(keep, says):
    cmyk, xyz = chart_of_known_inks()
    chosen = keep if isinstance(keep, slice) else keep(cmyk)
    with pytest.raises(PlanError, match=says):
        fit_inks(cmyk[chosen], xyz[chosen])


# files


def cgats(columns, rows):
    body = "\n".join(" ".join(str(value) for value in row) for row in rows)
    return f"CGATS.17\nBEGIN_DATA_FORMAT\n{columns}\nEND_DATA_FORMAT\nBEGIN_DATA\n{body}\nEND_DATA\n"


def integrated(row, nm):
    """XYZ of one spectrum by colour-science, whose drawing part warns of a library that is not here."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour

        cmfs = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"]
        measured = colour.SpectralDistribution(row, nm)
        return colour.sd_to_XYZ(measured, cmfs, colour.SDS_ILLUMINANTS["D50"], method="Integration") / 100


def test_xyz_cielab_and_spectra_tell_the_same_colour():
    """Spectra against colour-science's integration; CIELAB against XYZ by definition."""
    nm = np.arange(380, 731, 10)
    rng = np.random.default_rng(5)
    spectra = np.clip(np.cumsum(rng.normal(0, 0.05, (20, nm.size)), axis=1) + 0.5, 0.02, 0.98)
    own = xyz_of_spectra(nm.astype(float), spectra)
    for row, xyz in zip(spectra, own, strict=True):
        # beyond the last band reflectance stays as it is at the end, as ASTM E308 has it
        reference = integrated(np.append(row, [row[-1]] * 5), np.append(nm, range(740, 781, 10)))
        assert delta_e_2000(lab_from_xyz(xyz), lab_from_xyz(reference)) < 0.35
    assert xyz_of_spectra(nm.astype(float), np.ones((1, nm.size)))[0] == pytest.approx([0.9642, 1.0, 0.8249])
    lab = lab_from_xyz(own)
    head = "CMYK_C CMYK_M CMYK_Y CMYK_K"
    by_lab = parse_chart(cgats(f"{head} LAB_L LAB_A LAB_B", [(0, 0, 0, 0, *row) for row in lab]), "lab")
    by_xyz = parse_chart(cgats(f"{head} XYZ_X XYZ_Y XYZ_Z", [(0, 0, 0, 0, *(row * 100)) for row in own]), "xyz")
    bands = " ".join(f"SPECTRAL_NM{w}" for w in nm)
    by_spectrum = parse_chart(cgats(f"{head} {bands}", [(0, 0, 0, 0, *row) for row in spectra]), "nm")
    assert by_lab.xyz == pytest.approx(own, abs=1e-6)
    assert by_xyz.xyz == pytest.approx(own, abs=1e-9)
    assert by_spectrum.xyz == pytest.approx(own, abs=1e-9)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "no CGATS.17 chart"),
        ("BEGIN_DATA_FORMAT\nCMYK_C\n", "no END_DATA_FORMAT"),
        (cgats("CMYK_C CMYK_M CMYK_Y LAB_L LAB_A LAB_B", [(0, 0, 0, 95, 0, 0)]), "no column CMYK_K"),
        (cgats("CMYK_C CMYK_M CMYK_Y CMYK_K LAB_L", [(0, 0, 0, 0, 95)]), "neither LAB_L"),
        (cgats("CMYK_C CMYK_M CMYK_Y CMYK_K XYZ_X XYZ_Y XYZ_Z", [(0, 0, 0, 0, 95, 1)]), "line 6: 6 values where 7"),
        (cgats("CMYK_C CMYK_M CMYK_Y CMYK_K XYZ_X XYZ_Y XYZ_Z", [(0, 0, "x", 0, 9, 1, 1)]), "line 6: “x” is no number"),
        (cgats("CMYK_C CMYK_M CMYK_Y CMYK_K XYZ_X XYZ_Y XYZ_Z", [(0, 0, 255, 0, 9, 1, 1)]), "outside 0 to 100"),
        (cgats("CMYK_C CMYK_M CMYK_Y CMYK_K XYZ_X XYZ_Y XYZ_Z", [(0, 0, "nan", 0, 9, 1, 1)]), "no finite numbers"),
    ],
)
def test_a_wrong_chart_is_refused_with_the_line(text, says):
    with pytest.raises(PlanError, match=re.escape(says)):
        parse_chart(text, "chart.txt")


def test_names_in_quotes_and_comments_are_read_over():
    text = cgats(
        "SAMPLE_NAME CMYK_C CMYK_M CMYK_Y CMYK_K LAB_L LAB_A LAB_B",
        [('"full black, twice"', 0, 0, 0, 100, 16, 0, 0), ("# a note",), ("P2", 0, 0, 0, 0, 95, 0, "-2,5")],
    )
    chart = parse_chart(text, "c")
    assert chart.cmyk.tolist() == [[0, 0, 0, 1], [0, 0, 0, 0]]
    assert lab_from_xyz(chart.xyz)[1, 2] == pytest.approx(-2.5)


def test_the_command_writes_a_profile_that_plans(tmp_path, compiled):
    from PIL import Image

    cmyk, xyz = chart_of_known_inks(patches=90)
    head = "CMYK_C CMYK_M CMYK_Y CMYK_K XYZ_X XYZ_Y XYZ_Z"
    (tmp_path / "chart.txt").write_text(cgats(head, np.column_stack([cmyk * 100, xyz * 100]).round(4)))
    out = tmp_path / "attic.toml"
    told = CliRunner().invoke(app, ["fit-inks", str(tmp_path / "chart.txt"), "--out", str(out)])
    assert told.exit_code == 0, told.output
    assert re.search(r"Held out +mean 0\.\d\d, 95 % [01]\.\d\d", told.output)
    made = profiles.load(str(out))
    assert "chart.txt" in made.notes
    assert "held out" in made.notes
    assert len(made.separation.tone_curves) == 4
    assert tomllib.loads(made.source)["name"] == "attic"
    Image.fromarray(badge()).save(tmp_path / "badge.png")
    plan = CliRunner().invoke(app, ["plan", str(tmp_path / "badge.png"), "--profile", str(out), "--width", "1in"])
    assert plan.exit_code == 0, plan.output


# dot gain in the models


def test_with_dot_gain_less_ink_is_sent_for_the_same_colour():
    gained = replace(FILM, tone_curves=GAIN)
    rgb = np.array([[200, 120, 120], [120, 160, 200], [128, 128, 128], [90, 150, 90]], float)
    for separation in (FILM, gained):
        inks = solved(rgb, separation)
        printed = covered(inks, separation.tone_curves)
        shown = lab_from_bands(transmittance(printed, separation.primaries(), separation.yule_nielsen_n))
        assert delta_e_2000(shown, target_lab(rgb, separation)).max() < 1.5
    assert (solved(rgb, gained).sum(axis=1) < solved(rgb, FILM).sum(axis=1) - 0.1).all()


def test_the_proof_shows_dot_gain_as_the_model_says(compiled):
    press = replace(profiles.shipped("film"), separation=replace(FILM, tone_curves=GAIN))
    look = Appearance.of((250, 250, 248), press)
    rng = np.random.default_rng(8)
    cmyk = rng.integers(0, 256, (20, 20, 4), np.uint8)
    white = np.full((20, 20), 255 << 7, np.uint16)
    shown = seen(cmyk, white, look)
    ground = np.broadcast_to(bands_from_srgb8((250, 250, 248)), (20, 20, 3))
    wanted = srgb8_from_bands(seen_bands(cmyk / 255, np.ones((20, 20)), ground, look))
    assert np.abs(shown.astype(int) - wanted).max() <= 3
    half = np.full((20, 20), 128, np.uint8)
    thin = seen((cmyk // 2).astype(np.uint8), (white // 2).astype(np.uint16), look, share=half)
    mixed = 0.5 * linear_from_srgb(wanted / 255) + 0.5 * linear_from_srgb(np.array([250, 250, 248]) / 255)
    assert np.abs(thin - srgb_from_linear(mixed) * 255).mean() < 2.0, "half of it is printed, and light is what mixes"
