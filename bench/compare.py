#!/usr/bin/env python3
"""Times the same work in SciPy, NumPy and R (where they are installed) and in Nuvat, one after the other, and prints
the ratios.

    bench/compare.py BUILD        for example build/core-only

Work item: one hard set of 8 levels in duplicate fitted with covariance, and 80 responses read off with SE.
"""
import csv
import json
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

SETS = 60
READS = 80


def hard_sets(build, asymmetric):
    command = [str(build / "bench" / "dump_sets"), str(SETS)] + (["asymmetric"] if asymmetric else [])
    sets = {}
    for row in csv.DictReader(subprocess.run(command, check=True, capture_output=True, text=True).stdout.splitlines()):
        x, y = sets.setdefault(row["set"], ([], []))
        x.append(float(row["x"]))
        y.append(float(row["y"]))
    return list(sets.values())


def nuvat_times(build):
    times = {}
    for name in ("fit_bench", "gsl_bench", "formats_bench"):
        program = build / "bench" / name
        if not program.exists():
            continue
        out = subprocess.run([str(program), "--benchmark_format=json"], check=True, capture_output=True, text=True).stdout
        for one in json.loads(out)["benchmarks"]:
            unit = {"ns": 1e-3, "us": 1, "ms": 1e3}[one["time_unit"]]
            kind = "real_time" if "real_time" in one["name"] else "cpu_time" # several threads count by the clock
            times[one["name"].split("/")[0]] = one[kind] * unit
    return times


def scipy_times(build):
    try:
        import numpy as np
        from scipy.optimize import curve_fit
    except ImportError:
        return {}
    import warnings

    warnings.simplefilter("ignore")

    def four(x, a, b, c, d):
        return d + (a - d) / (1 + (x / c) ** b)

    def five(x, a, b, c, d, g):
        return d + (a - d) / (1 + (x / c) ** b) ** g

    def item(model, x, y, p):
        start = [np.mean(y[:2]), 1, x[8], np.mean(y[-2:])] + ([1] if p == 5 else [])
        try:
            best, covariance = curve_fit(model, x, y, start, maxfev=4000)
        except RuntimeError:
            return
        g = best[4] if p == 5 else 1
        a, b, c, d = best[:4]
        s2 = np.sum((model(x, *best) - y) ** 2) / (len(x) - p)
        y0 = np.linspace(np.min(y), np.max(y), READS + 2)[1:-1]
        power = ((a - d) / (y0 - d)) ** (1 / g)
        x0 = c * (power - 1) ** (1 / b)
        h = power ** -g
        odds = (power - 1) / power
        by_u = -(a - d) * g * h * odds
        gradient = [h, by_u * np.log(x0 / c), -by_u * b / c, 1 - h] + ([-(a - d) * h * np.log(power)] if p == 5 else [])
        gradient = np.array(gradient)
        np.sqrt(s2 + np.einsum("ik,ij,jk->k", gradient, covariance, gradient)) / (by_u * b / x0)

    times = {}
    for name, model, p in (("hardFourPlItem", four, 4), ("hardFivePlItem", five, 5)):
        sets = [(np.array(x), np.array(y)) for x, y in hard_sets(build, p == 5)]
        begin = time.process_time()
        for x, y in sets:
            item(model, x, y, p)
        times[name] = (time.process_time() - begin) / len(sets) * 1e6
    sets = [(np.array(x), np.array(y)) for x, y in hard_sets(build, False)]
    for name, degree in (("lineEstimate", 1), ("quadraticEstimate", 2)):
        begin = time.process_time()
        for _ in range(20):
            for x, y in sets:
                np.polyfit(x, y, degree, cov=True)
        times[name] = (time.process_time() - begin) / len(sets) / 20 * 1e6
    times.update(scipy_interval_times(np, curve_fit, four))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "million.csv"
        x = np.arange(1_000_000) * 0.01
        np.savetxt(path, np.column_stack([x, np.random.default_rng(3).uniform(0, 3, x.size)]), fmt=["%.4f", "%.6f"],
                   delimiter=",", header="x,y", comments="")
        begin = time.process_time()
        np.loadtxt(path, delimiter=",", skiprows=1)
        times["readMillionLinesOfTwoColumns"] = (time.process_time() - begin) * 1e6
    return times


def scipy_interval_times(np, curve_fit, four):
    """Profile limits of one read-off and 2000 bootstrap refits of one 4PL, started at its optimum."""
    from scipy.optimize import brentq, least_squares

    random = np.random.default_rng(11)
    x = np.repeat(500 / 3.0 ** np.arange(8), 2)
    y = four(x, 2.4, 1.1, 30, 0.1) * (1 + 0.03 * random.standard_normal(16))
    best, covariance = curve_fit(four, x, y, [2.4, 1.1, 30, 0.1])
    s2 = np.sum((four(x, *best) - y) ** 2) / 12
    y0 = 1.0
    x0 = best[2] * ((best[0] - best[3]) / (y0 - best[3]) - 1) ** (1 / best[1])
    limit = 2.1788128 ** 2 * s2

    def rise(at):
        def residuals(p):
            return np.append(four(x, *p) - y, four(at, *p) - y0)

        return 2 * least_squares(residuals, best, method="lm", xtol=1e-12, ftol=1e-12).cost - 12 * s2 - limit

    def timed(rounds, work):
        begin = time.process_time()
        for _ in range(rounds):
            work()
        return (time.process_time() - begin) / rounds * 1e6

    def profile():
        brentq(rise, x0 * 0.5, x0, rtol=1e-9)
        brentq(rise, x0, x0 * 2, rtol=1e-9)

    def refit():
        curve_fit(four, x, four(x, *best) + np.sqrt(s2) * random.standard_normal(16), best)

    return {"readOffProfile": timed(5, profile), "bootstrapCurves2000": 2000 * timed(100, refit)}


R_SCRIPT = """
d <- read.csv(commandArgs(TRUE)[1])
sets <- split(d, d$set)
begin <- proc.time()[["user.self"]]
for (s in sets) {
  start <- list(a = mean(s$y[1:2]), b = 1, c = s$x[9], d = mean(s$y[15:16]))
  try({
    fit <- nls(y ~ d + (a - d) / (1 + (x / c)^b), s, start, algorithm = "port", lower = c(-Inf, 1e-3, 1e-9, -Inf))
    vcov(fit)
  }, silent = TRUE)
}
cat((proc.time()[["user.self"]] - begin) / length(sets) * 1e6)
"""


def r_times(build):
    if not shutil.which("Rscript"):
        return {}
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "sets.csv"
        with data.open("w") as out:
            subprocess.run([str(build / "bench" / "dump_sets"), str(SETS)], check=True, stdout=out)
        script = Path(folder) / "fit.R"
        script.write_text(R_SCRIPT)
        out = subprocess.run(["Rscript", str(script), str(data)], check=True, capture_output=True, text=True).stdout
    return {"hardFourPlItem (fit alone)": float(out)}


def main():
    build = Path(sys.argv[1] if len(sys.argv) > 1 else "build/core-only")
    ours = nuvat_times(build)
    for name in sorted(ours):
        print(f"Nuvat  {name:34} {ours[name]:12.2f} us")
    for name in ("hardFourPlItem", "hardFivePlItem", "hardLine", "hardQuadratic"):
        if name + "Gsl" in ours:
            print(f"GSL    {name:34} {ours[name + 'Gsl']:12.2f} us = {ours[name + 'Gsl'] / ours[name]:6.1f} x Nuvat")
    for label, times in (("SciPy", scipy_times(build)), ("R", r_times(build))):
        for name, value in times.items():
            mine = ours.get(name.split(" ")[0])
            ratio = f"= {value / mine:7.0f} x Nuvat" if mine else ""
            print(f"{label:6} {name:34} {value:12.2f} us {ratio}")


if __name__ == "__main__":
    main()
