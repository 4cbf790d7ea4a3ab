"""The time step, compiled: every cell exact over a step of constant current, every group's split a linear solve.

Over a step dt a cell's terminal voltage at its end is E + Z·i with
E = OCV(s) + v₁·e₁ + v₂·e₂ + k_T·(T − 25) and Z = R₀ + OCV′·dt/Q + R₁(1−e₁) + R₂(1−e₂), e = exp(−dt/τ).
Cells in parallel share that voltage: v = (I + ΣE/Z)/(Σ1/Z + shunts), no iteration. The string is affine in its
current, V = A + B·I, so a voltage, a resistance or a power at the terminals fixes I in closed form. Strings side by side
share V: each carries Iⱼ = (V − Aⱼ)/Bⱼ, and together they are affine again, with 1/B = Σ1/Bⱼ and A = B·ΣAⱼ/Bⱼ.
"""

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.cell.resistance import ARRHENIUS_K, REFERENCE_K
from saldatura.battery.compiled_later import njit

MODE_CURRENT, MODE_CHARGER, MODE_RESISTANCE, MODE_POWER = 0, 1, 2, 3
STOP_TIME, STOP_HIGH, STOP_LOW, STOP_TAPER = 0, 1, 2, 3

# A charger on one group moves the share of its string, which moves what that charger gives: each turn leaves at most an eighth of what it is off by.
SETTLING_TURNS = 6

# Near empty the ohmic part rises to this multiple.
EMPTY_RISE, EMPTY_BELOW = 1.0, 0.10


@njit(cache=True)
def run_steps(
    table: Array, low: float, step: float,
    capacity: Array, ohmic: Array, fast: Array, slow: Array, leak: Array, heat: Array, loss: Array, neighbour: Array,
    strings: int, links: float, tau_fast: float, tau_slow: float, volts_per_k: float, accepts_all: bool,
    soc: Array, v_fast: Array, v_slow: Array, celsius: Array,
    mode: int, value: float, limit: float, clip_v: Array, clip_a: Array, clip_taper: Array, bleed: Array,
    ambient: float, dt: float, steps: int, high_v: float, low_v: float, taper_a: float,
    log_v: Array, log_a: Array, log_groups: Array, log_clips: Array,
) -> tuple[int, int]:  # fmt: skip
    """Advance the state arrays in place by up to `steps`; (steps done, why it stopped).

    The groups are those of `strings` strings, one string after the other. A charger clipped to group g holds `clip_v[g]` up to `clip_a[g]` (0: none is clipped there). Stops after the step in which a
    group passes `high_v` or `low_v`, the current falls to `taper_a`, or that of a clipped charger to its `clip_taper`.
    """
    series, parallel = capacity.shape
    last = len(table) - 2
    e_fast, e_slow = np.exp(-dt / tau_fast), np.exp(-dt / tau_slow)
    source, admittance = np.empty(series), np.empty(series)
    each = series // strings
    own_a, own_b, through, extras = np.empty(strings), np.empty(strings), np.empty(strings), np.zeros(series)
    e_cell, z_cell, r_now = np.empty_like(capacity), np.empty_like(capacity), np.empty_like(capacity)
    for n in range(steps):
        own_a[:], own_b[:] = 0.0, 0.0
        for g in range(series):
            total_e = 0.0
            total_y = bleed[g]
            for c in range(parallel):
                position = (soc[g, c] - low) / step
                k = min(max(int(position), 0), last)
                slope = (table[k + 1] - table[k]) / step
                ocv = table[k] + (position - k) * (table[k + 1] - table[k])
                kelvin = celsius[g, c] + 273.15
                warm = np.exp(ARRHENIUS_K * (1.0 / kelvin - 1.0 / REFERENCE_K))
                empty = max(0.0, EMPTY_BELOW - max(soc[g, c], 0.0)) / EMPTY_BELOW
                r0 = ohmic[g, c] * warm * (1.0 + EMPTY_RISE * empty)
                r1, r2 = fast[g, c] * warm, slow[g, c] * warm
                r_now[g, c] = r0
                e = ocv + v_fast[g, c] * e_fast + v_slow[g, c] * e_slow + volts_per_k * (celsius[g, c] - 25.0)
                z = r0 + slope * dt / capacity[g, c] + r1 * (1.0 - e_fast) + r2 * (1.0 - e_slow)
                e_cell[g, c], z_cell[g, c] = e, z
                total_e += e / z
                total_y += 1.0 / z + leak[g, c]
            source[g], admittance[g] = total_e, total_y
            own_a[g // each] += total_e / total_y
            own_b[g // each] += 1.0 / total_y
        a, b, between = own_a[0], own_b[0] + links, 0.0
        if strings > 1:
            between = 1.0 / (1.0 / own_b).sum()
            a, b = between * (own_a / own_b).sum(), between + links
        if mode == MODE_CHARGER:
            amps = max(min(limit, (value - a) / b), 0.0)
        elif mode == MODE_RESISTANCE:
            amps = -a / (b + value)
        elif mode == MODE_POWER:
            inside = a * a - 4.0 * b * value
            amps = (-a + np.sqrt(inside)) / (2.0 * b) if inside > 0.0 else -a / (2.0 * b)
        else:
            amps = value
        reason = STOP_TIME
        extra, tapered = 0.0, False
        total_v = amps * links
        through[:] = amps
        for _ in range(SETTLING_TURNS if strings > 1 else 1):
            if strings > 1:
                lifted = own_a.copy()
                for g in range(series):
                    lifted[g // each] += extras[g] / admittance[g]
                joint_v = between * ((lifted / own_b).sum() + amps)
                through[:] = (joint_v - lifted) / own_b
            for g in range(series):
                if clip_a[g] > 0.0:
                    free = clip_v[g] * admittance[g] - source[g] - through[g // each]
                    extras[g] = max(min(clip_a[g], free), 0.0)
        for g in range(series):
            extra_g = extras[g]
            extra += extra_g
            if clip_a[g] > 0.0 and extra_g <= clip_taper[g]:
                tapered = True
            log_clips[n, g] = extra_g
            v = (through[g // each] + extra_g + source[g]) / admittance[g]
            total_v += v / strings
            log_groups[n, g] = v
            if v > high_v:
                reason = STOP_HIGH
            elif v < low_v:
                reason = STOP_LOW
            mean = 0.0
            for c in range(parallel):
                mean += celsius[g, c] / parallel
            for c in range(parallel):
                i = (v - e_cell[g, c]) / z_cell[g, c]
                kelvin = celsius[g, c] + 273.15
                warm = np.exp(ARRHENIUS_K * (1.0 / kelvin - 1.0 / REFERENCE_K))
                r1, r2 = fast[g, c] * warm, slow[g, c] * warm
                v_fast[g, c] = v_fast[g, c] * e_fast + i * r1 * (1.0 - e_fast)
                v_slow[g, c] = v_slow[g, c] * e_slow + i * r2 * (1.0 - e_slow)
                watts = i * i * r_now[g, c] + v_fast[g, c] ** 2 / r1 + v_slow[g, c] ** 2 / r2
                kept = i
                if not accepts_all and i > 0.0:
                    # Nickel near full turns charge into heat; the warmth then bends the voltage down (−ΔV).
                    share = min(max((1.02 - soc[g, c]) / 0.06, 0.0), 1.0)
                    kept = i * share
                    watts += (i - kept) * v
                soc[g, c] += kept * dt / capacity[g, c]
                path = loss[g, c] + neighbour[g, c]
                settled = (loss[g, c] * ambient + neighbour[g, c] * mean + watts) / path
                celsius[g, c] = settled + (celsius[g, c] - settled) * np.exp(-dt * path / heat[g, c])
        log_v[n] = total_v
        log_a[n] = amps + extra
        if reason == STOP_TIME and (tapered or (taper_a > 0.0 and log_a[n] <= taper_a)):
            reason = STOP_TAPER
        if reason != STOP_TIME:
            return n + 1, reason
    return steps, STOP_TIME
