"""Inks and white for a colour: the damped steps of the inverse separation, and what each amount of white leaves."""

import math

import numpy as np
from numba import njit, types

from swaddon.core.fast.kernels.colour import delta_e_2000, lab_f, terms_2000
from swaddon.core.fast.kernels.signatures import OPTIONS, f32, f64, flag, i64, reads, writes


@njit(**OPTIONS)
def _lab_seen(cmyk, roots, n, curves, ground, surface, matrix, weights, out):
    """CIELAB of inks over a ground; ``weights`` is room for the 16 overprints' shares."""
    weights[0] = 1.0
    steps = curves.shape[1] - 1
    for ink in range(4):
        covered, size = cmyk[ink], 1 << ink
        if steps > 0:
            at = min(int(covered * steps), steps - 1)
            covered = curves[ink, at] + (covered * steps - at) * (curves[ink, at + 1] - curves[ink, at])
        for index in range(size):
            weights[size + index] = weights[index] * covered
            weights[index] *= 1 - covered
    x = y = z = 0.0
    for band in range(3):
        total = 0.0
        for index in range(16):
            total += weights[index] * roots[index, band]
        filtered = total**n
        light = ground[band] * filtered + surface[band] * (1 - filtered) * (1 - ground[band])
        x += matrix[0, band] * light
        y += matrix[1, band] * light
        z += matrix[2, band] * light
    fx, fy, fz = lab_f(x), lab_f(y), lab_f(z)
    out[0], out[1], out[2] = 116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)


@njit(**OPTIONS)
def _residual(trial, aim, black, model, limit, weight, lab, shares, out):
    """The five residuals of some inks: ΔE00 in its three parts, ink above the limit, black off its preference."""
    roots, n, curves, ground, surface, matrix = model
    _lab_seen(trial, roots, n, curves, ground, surface, matrix, shares, lab)
    raw = math.hypot(lab[1], lab[2])
    lightness, chroma, hue, turned = terms_2000(aim[0], aim[1], aim[2], lab[0], lab[1], lab[2], raw)
    out[0] = lightness
    out[1] = chroma + turned / 2 * hue
    out[2] = weight[0] * math.sqrt(max(1 - turned * turned / 4, 0.0)) * hue
    out[3] = weight[1] * max(trial[0] + trial[1] + trial[2] + trial[3] - limit, 0.0)
    out[4] = weight[2] * (trial[3] - black)
    return out[0] ** 2 + out[1] ** 2 + out[2] ** 2 + out[3] ** 2 + out[4] ** 2


@njit(**OPTIONS)
def _solve_four(normal, right, out):
    """A symmetric positive system of four (Cholesky); ``normal`` is overwritten."""
    for i in range(4):
        for j in range(i + 1):
            total = normal[i, j]
            for k in range(j):
                total -= normal[i, k] * normal[j, k]
            normal[i, j] = math.sqrt(max(total, 1e-300)) if i == j else total / normal[j, j]
    for i in range(4):
        total = right[i]
        for k in range(i):
            total -= normal[i, k] * out[k]
        out[i] = total / normal[i, i]
    for i in range(3, -1, -1):
        total = out[i]
        for k in range(i + 1, 4):
            total -= normal[k, i] * out[k]
        out[i] = total / normal[i, i]


@njit(
    types.void(
        reads(f64, 2), reads(f64, 1), reads(f64, 1), reads(f64, 2), f64, reads(f64, 2), reads(f64, 1), reads(f64, 1),
        reads(f64, 2), f64, reads(f64, 1), i64, f64, writes(f64, 2),
    ),
    **OPTIONS,
)  # fmt: skip
def fit_inks(
    aims, black, most, roots, n, curves, ground, surface, matrix, limit, weight, steps, settled, inks
):  # fmt: skip
    """Levenberg-Marquardt steps for each colour, from the guess that ``inks`` holds; see ``inverse.fit_inks_plain``."""
    model = roots, n, curves, ground, surface, matrix
    lab, shares = np.empty(3), np.empty(16)
    current, result, moved = np.empty(5), np.empty(5), np.empty(5)
    trial, step, gradient = np.empty(4), np.empty(4), np.empty(4)
    jacobian, normal = np.empty((5, 4)), np.empty((4, 4))
    for row in range(len(aims)):
        here, aim = inks[row], aims[row]
        damping = 1e-3
        squares = _residual(here, aim, black[row], model, limit, weight, lab, shares, current)
        for _ in range(steps):
            for ink in range(4):
                away = -1e-4 if here[ink] > most[ink] / 2 else 1e-4
                trial[:] = here
                trial[ink] += away
                _residual(trial, aim, black[row], model, limit, weight, lab, shares, moved)
                gradient[ink] = 0.0
                for part in range(5):
                    jacobian[part, ink] = (moved[part] - current[part]) / away
                    gradient[ink] += jacobian[part, ink] * current[part]
                # an ink at a bound that the step would cross stays
                if (here[ink] <= 0 and gradient[ink] > 0) or (here[ink] >= most[ink] and gradient[ink] < 0):
                    jacobian[:, ink] = 0.0
                    gradient[ink] = 0.0
            for i in range(4):
                for j in range(4):
                    normal[i, j] = 0.0
                    for part in range(5):
                        normal[i, j] += jacobian[part, i] * jacobian[part, j]
                normal[i, i] += normal[i, i] * damping + 1e-6
            _solve_four(normal, gradient, step)
            for ink in range(4):
                trial[ink] = min(max(here[ink] - step[ink], 0.0), most[ink])
            after = _residual(trial, aim, black[row], model, limit, weight, lab, shares, result)
            gain = squares - after
            if gain > 0:
                here[:] = trial
                current[:] = result
                squares = after
                damping = max(damping * 0.2, 1e-7)
                if gain < settled:
                    break
            else:
                damping *= 8
            if damping > 1e4:
                break


@njit(
    types.void(
        reads(f64, 2), reads(f64, 2), reads(f64, 1), reads(f64, 1), reads(f64, 1), reads(f64, 1), flag, reads(f64, 2),
        writes(f32, 2),
    ),
    **OPTIONS,
)  # fmt: skip
def white_errors(aims, filtered, ground, surface, scatter, through, under, matrix, out):
    """ΔE00 of each colour for each amount of white; see ``need.errors_plain``. ``scatter`` is S·X of each amount."""
    for row in range(len(aims)):
        lightness, a, b = aims[row]
        chroma = math.hypot(a, b)
        for amount in range(scatter.size):
            x = y = z = 0.0
            for band in range(3):
                light, passed = ground[band], filtered[row, band]
                if not under:
                    light = light * passed + surface[band] * (1 - passed) * (1 - light)
                spread = (1 - light) * scatter[amount]
                light = (light + spread) / (1 + spread)
                if under:
                    share = through[amount]
                    light = light * (share + (1 - share) * passed) + surface[band] * (1 - passed) * (1 - light)
                x += matrix[0, band] * light
                y += matrix[1, band] * light
                z += matrix[2, band] * light
            fx, fy, fz = lab_f(x), lab_f(y), lab_f(z)
            out[row, amount] = delta_e_2000(116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz), lightness, a, b, chroma)
