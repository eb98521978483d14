#!/usr/bin/env python3
"""The time that SciPy takes for what bench/traces_bench measures as measureOne/60000: a trace of 60 000 points with 150
peaks. It smooths, finds maxima by their prominence, takes widths at three heights and areas above straight lines; noise,
feet, tailing, plates and resolution are left out. Needs python3-scipy."""
import time

import numpy as np
from scipy.signal import find_peaks, peak_widths, savgol_filter

POINTS = 60_000


def trace():
    i = np.arange(POINTS)
    z = ((i % 400) - 200) / 9
    noise = np.random.default_rng(1).normal(0, 0.05, POINTS)
    return i * 0.005, 5 + 2 * np.sin(i / 4000) + 40 * np.exp(-z * z / 2) + noise


def measure(x, y):
    smooth = savgol_filter(y, 15, 3)
    apexes, found = find_peaks(smooth, prominence=0.4)
    for height in (0.5, 0.9, 0.95):
        peak_widths(smooth, apexes, height)
    for left, right in zip(found["left_bases"], found["right_bases"]):
        xs, ys = x[left : right + 1], y[left : right + 1]
        np.trapz(ys - np.interp(xs, [xs[0], xs[-1]], [ys[0], ys[-1]]), xs)
    return len(apexes)


if __name__ == "__main__":
    x, y = trace()
    times = []
    for _ in range(30):
        begin = time.perf_counter()
        peaks = measure(x, y)
        times.append(time.perf_counter() - begin)
    print(f"{peaks} peaks, least {1e3 * min(times):.2f} ms, median {1e3 * sorted(times)[15]:.2f} ms")
