"""Holds the judge's leak against one generalised-least-squares fit of the package statsmodels, on holds made here.

    python3 checks/gls.py PATH-TO-zero-leak > checks/gls.snapshot.txt
    python3 checks/gls.py PATH-TO-zero-leak --time        how long each takes on 10,000 readings, in the same run

The holds are made with CoolProp's water and a wall of their own: everything but leak, start pressure and gauge noise is known to a thousandth,
there is no air, no gasket, nothing creeps, and the water's temperature is read finely, so that the whole model comes down to the two
columns that the package fits: a constant and a leak. The noise is white and Ornstein-Uhlenbeck with the figures that the package is given;
the judge is given the white part and finds the rest. Fails when a leak differs by more than 1 %.
"""
import hashlib
import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import CoolProp
import numpy as np
import statsmodels
import statsmodels.api as sm
from CoolProp.CoolProp import PropsSI

root = Path(__file__).resolve().parent.parent
binary = sys.argv[1]
ATMOSPHERE = 101325.0
# number, volume m3, bore m, wall m, hours, seconds between readings, pressure bar, leak L/h, OU noise bar, its time s, white noise bar, drift K
HOLDS = [
    (1, 2.24, 0.154, 0.0071, 2.0, 30.0, 25.0, 0.02, 0.002, 300.0, 0.002, -0.20),
    (2, 2.24, 0.154, 0.0071, 2.0, 30.0, 25.0, 0.05, 0.002, 300.0, 0.002, 0.30),
    (3, 12.0, 0.303, 0.0095, 4.0, 60.0, 16.0, 0.15, 0.003, 600.0, 0.002, -0.10),
    (4, 0.35, 0.078, 0.0055, 1.0, 10.0, 30.0, 0.01, 0.002, 200.0, 0.002, -0.15),
    (5, 6.50, 1.600, 0.0180, 2.0, 20.0, 15.0, 0.20, 0.002, 900.0, 0.001, 0.10),
    (6, 0.90, 0.102, 0.0060, 3.0, 15.0, 40.0, 0.04, 0.004, 400.0, 0.003, -0.25),
]
E, NU, ALPHA = 207e9, 0.29, 11.7e-6


class Water:
    """Density over a small box, by a plane fit to CoolProp of the third order."""

    def __init__(self, t, p):
        ts, ps = np.meshgrid(np.linspace(t - 1.5, t + 1.5, 9), np.linspace(p - 12e5, p + 4e5, 9))
        self.t, self.p = t, p
        rho = np.vectorize(lambda a, b: PropsSI("D", "T", a + 273.15, "P", b, "Water"))(ts, ps)
        self.c, *_ = np.linalg.lstsq(self.basis(ts.ravel(), ps.ravel()), rho.ravel(), rcond=None)

    def basis(self, t, p):
        x, y = (t - self.t), (p - self.p) / 1e6
        return np.stack([np.ones_like(x), x, y, x * x, x * y, y * y, x**3, x * x * y, x * y * y, y**3], axis=-1)

    def __call__(self, t, p):
        return self.basis(np.asarray(t, float), np.asarray(p, float)) @ self.c


def pressures(water, volume, compliance, t, p0, lost):
    """Pressure at each time of a cavity that lost so much: V rho (1 + c dp + 3 alpha dT) kept, by Newton."""
    rho0 = water(t[:1], np.array([p0]))[0]
    target = rho0 * (1 - lost / volume)
    p = np.full_like(t, p0)
    for _ in range(12):
        cavity = 1 + compliance * (p - p0) + 3 * ALPHA * (t - t[0])
        mass = water(t, p) * cavity
        slope = (water(t, p + 1e3) - water(t, p - 1e3)) / 2e3 * cavity + water(t, p) * compliance
        p = p + (target - mass) / slope
    return p


def shape(p_gauge, times):
    """Loss of an orifice, one at the end: the integral of the root of the pressure."""
    flow = np.sqrt(p_gauge)
    out = np.concatenate([[0.0], np.cumsum(0.5 * (flow[1:] + flow[:-1]) * np.diff(times))])
    return out / out[-1]


def make(row, folder, readings=None):
    number, volume, bore, wall, hours, every, bar, leak, ou, tau, white, drift = row
    rng = np.random.default_rng(4100 + number)
    n = readings or int(hours * 3600 / every) + 1
    times = np.linspace(0.0, hours * 3600, n)
    t = 15.0 + drift * times / times[-1]
    p0 = bar * 1e5 + ATMOSPHERE
    thin = bore / wall >= 20
    k = (bore + 2 * wall) / bore
    compliance = bore / (wall * E) * (1.25 - NU) if thin else (3 * (1 - 2 * NU) + 2 * (1 + NU) * k * k) / (E * (k * k - 1))
    water = Water(15.0, p0)
    lost = np.zeros(n)
    for _ in range(3):
        p = pressures(water, volume, compliance, t, p0, lost)
        lost = leak / 3.6e6 * times[-1] * shape(p - ATMOSPHERE, times)
    step = times[1] - times[0]
    rho = np.exp(-step / tau)
    noise = np.empty(n)
    noise[0] = ou * rng.standard_normal()
    for i in range(1, n):
        noise[i] = rho * noise[i - 1] + ou * np.sqrt(1 - rho * rho) * rng.standard_normal()
    read = (p - ATMOSPHERE) / 1e5 + noise + white * rng.standard_normal(n)
    case = {
        "case": f"gls-{number}", "simulated": True, "family": "made", "medium": "water", "test_pressure_bar_gauge": bar,
        "atmospheric_pressure_bar_abs": ATMOSPHERE / 1e5, "total_volume_m3": volume, "volume_unc_95_rel": 0.001,
        "segments": [{"name": "line", "kind": "pipe", "material": "carbon_steel", "youngs_modulus_pa": E, "poisson_ratio": NU,
                      "linear_expansion_1_per_k": ALPHA, "inside_diameter_m": bore, "wall_thickness_m": wall, "length_m": 1.0, "restraint": "free",
                      "exposure": "indoor", "volume_m3": volume, "skin_lag_nominal_s": 2000.0, "water_lag_nominal_s": 2.0, "lag_factor_95": 1.05,
                      "wall_compliance_unc_95_rel": 0.001}],
        "trapped_air_fraction_at_atm": 0.0, "trapped_air_fraction_unc_95": 0.0, "fill_temperature_c": 15.0, "soak_before_hold_s": 36000.0,
        "time_at_pressure_before_hold_s": 3600.0, "gasketed_joints": 0,
        "gauges": [{"column": "gauge_1_bar", "elevation_above_reference_m": 0.0, "range_bar": 40.0, "resolution_bar": 1e-5,
                    "accuracy_percent_of_range": 0.001, "repeatability_sd_bar": white, "temperature_coefficient_95_bar_per_k": 0.0}],
        "thermometers": [{"column": "temperature_1_c", "segment": "line", "location": "water", "resolution_k": 1e-5, "accuracy_95_k": 0.001,
                          "noise_sd_k": 1e-4}],
        "logging": {"by": "logger", "interval_s": step}, "hold_length_s": float(times[-1]), "leak_unit": "l_per_h",
        "required_sensitivity_l_per_h": 0.01, "events": [],
        "plan": {"expected_ambient_swing_k": abs(drift), "expected_start_temperature_c": 15.0},
    }
    at = Path(folder) / f"gls-{number}"
    at.mkdir()
    (at / "case.json").write_text(json.dumps(case))
    with open(at / "readings.csv", "w") as f:
        f.write("sample_no,time_s,gauge_1_bar,temperature_1_c\n")
        for i in range(n):
            f.write(f"{i},{times[i]:.3f},{read[i]:.5f},{t[i]:.5f}\n")
    return times, t, read, (water, volume, compliance, p0, ou, tau, white, leak)


def columns(times, t, known, leak):
    """What the gauge would read without a leak, and what a litre an hour changes about this one."""
    water, volume, compliance, p0 = known[:4]
    s = shape(np.full(len(times), p0 - ATMOSPHERE), times)
    for _ in range(2):
        s = shape(pressures(water, volume, compliance, t, p0, leak / 3.6e6 * times[-1] * s) - ATMOSPHERE, times)
    at = lambda q: (pressures(water, volume, compliance, t, p0, q / 3.6e6 * times[-1] * s) - ATMOSPHERE) / 1e5
    h = 0.02 * leak
    return at(leak), (at(leak + h) - at(leak - h)) / (2 * h)


def gls(times, t, read, known):
    ou, tau, white, leak = known[4:]
    sigma = ou**2 * np.exp(-np.abs(times[:, None] - times[None, :]) / tau) + white**2 * np.eye(len(times))
    estimate = leak
    for _ in range(3):
        base, per_litre = columns(times, t, known, estimate)
        x = np.stack([np.ones(len(times)), per_litre], axis=1)
        fit = sm.GLS(read - base, x, sigma=sigma).fit(cov_type="fixed scale", cov_kwds={"scale": 1.0})
        estimate += fit.params[1]
    return estimate, fit.bse[1]


def judged(folder):
    out = subprocess.run([binary, "judge", str(folder)], capture_output=True, text=True, check=True).stdout
    return {line["case"]: line for line in map(json.loads, out.splitlines())}


def compare():
    print(f"statsmodels {statsmodels.__version__}, numpy {np.__version__}, CoolProp {CoolProp.__version__}")
    names = ["checks/gls.py"] + sorted(str(p.relative_to(root)) for p in (root / "core/hold/src").rglob("*.rs"))
    for name in names:
        print(f"sha256 {name} {hashlib.sha256((root / name).read_bytes()).hexdigest()}")
    with tempfile.TemporaryDirectory() as folder:
        made = {row[0]: make(row, folder) for row in HOLDS}
        ours = judged(folder)
        worst = 0.0
        for row in HOLDS:
            times, t, read, known = made[row[0]]
            theirs, sd = gls(times, t, read, known)
            line = ours[f"gls-{row[0]}"]
            apart = line["leak_l_per_h"] / theirs - 1
            worst = max(worst, abs(apart))
            print(f"hold {row[0]}: put in {row[7]:.3f} L/h, package {theirs:.4f} ± {2 * sd:.4f}, judge {line['leak_l_per_h']:.4f} "
                  f"({line['lo']:.4f} to {line['hi']:.4f}), apart {100 * apart:+.2f} %")
        assert worst <= 0.01, f"a leak differs by {100 * worst:.2f} %"
        print(f"largest difference {100 * worst:.2f} %")


def race():
    """One fit of the package for a constant and a leak with noise that is autoregressive, beside the judge's whole work."""
    with tempfile.TemporaryDirectory() as folder:
        times, t, read, known = make(HOLDS[1], folder, readings=10_000)
        start = time.perf_counter()
        base, per_litre = columns(times, t, known, HOLDS[1][7])
        x = np.stack([np.ones(len(times)), per_litre], axis=1)
        sm.tsa.SARIMAX(read - base, exog=x, order=(1, 0, 0)).fit(disp=False)
        theirs = time.perf_counter() - start
        start = time.perf_counter()
        judged(folder)
        ours = time.perf_counter() - start
        print(f"10,000 readings from file to verdict: {theirs / ours:.1f} × as fast as one SARIMAX(1,0,0) fit of statsmodels ({ours * 1e3:.0f} ms and {theirs * 1e3:.0f} ms)")


if "--time" in sys.argv:
    race()
else:
    compare()
