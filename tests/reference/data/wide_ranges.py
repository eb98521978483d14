#!/usr/bin/env python3
# Makes wide_ranges.json: weighted lines, quadratics and cubics over many decades and far from zero, with a read-off and
# its standard error, in 60 digits by mpmath (normal equations in powers of x; at 60 digits their cancellation costs
# nothing that shows). Data are invented for the purpose.
import json
import mpmath as mp

mp.mp.dps = 60


def solve(x, y, w, p):
    n = len(x)
    xs = [mp.mpf(v) for v in x]
    ys = [mp.mpf(v) for v in y]
    a = mp.matrix(p, p)
    b = mp.matrix(p, 1)
    for i in range(n):
        for j in range(p):
            b[j] += w[i] * xs[i] ** j * ys[i]
            for k in range(p):
                a[j, k] += w[i] * xs[i] ** (j + k)
    inverse = a ** -1
    beta = inverse * b
    sse = sum(w[i] * (ys[i] - sum(beta[j] * xs[i] ** j for j in range(p))) ** 2 for i in range(n))
    return beta, inverse, sse / (n - p)


def read(beta, inverse, s2, y0, guess, weighted):
    p = len(beta)
    f = lambda v: sum(beta[j] * v ** j for j in range(p)) - y0
    x0 = mp.findroot(f, guess)
    slope = sum(j * beta[j] * x0 ** (j - 1) for j in range(1, p))
    g = [x0 ** j for j in range(p)]
    curve = s2 * sum(g[i] * inverse[i, j] * g[j] for i in range(p) for j in range(p))
    weight = 1 / x0 ** 2 if weighted else mp.mpf(1)
    se = mp.sqrt(s2 / weight + curve) / abs(slope)
    return x0, se


wobble = [1.02, 0.98, 1.02, 0.985, 1.02, 0.98, 1.02, 0.98125, 1.01, 0.99]
cases = []
for decades in (4, 6, 8, 10):
    levels = [float(mp.mpf(10) ** (mp.mpf(decades) * i / 9)) for i in range(10)]
    y = [float(0.001 * v * wobble[i]) for i, v in enumerate(levels)]
    for model, p in (("line", 2), ("quadratic", 3), ("cubic", 4)):
        w = [1 / mp.mpf(v) ** 2 for v in levels]
        beta, inverse, s2 = solve(levels, y, w, p)
        y0 = float(0.001 * levels[1])
        x0, se = read(beta, inverse, s2, mp.mpf(y0), levels[1], True)
        cases.append({"model": model, "weight": "1/x2", "decades": decades, "offset": 0, "x": levels, "y": y,
                      "read": y0, "x0": float(x0), "se": float(se)})
response = [5.1, 7.9, 11.1, 13.9, 17.1, 19.9, 23.1, 25.9, 29.1, 31.9]
for offset in (1e3, 1e5, 1e6, 1e7, 1e8, 1e9):
    levels = [offset + i for i in range(10)]
    for model, p in (("line", 2), ("quadratic", 3)):
        beta, inverse, s2 = solve(levels, response, [mp.mpf(1)] * 10, p)
        x0, se = read(beta, inverse, s2, mp.mpf(20), offset + 5, False)
        cases.append({"model": model, "weight": "none", "decades": 0, "offset": offset, "x": levels, "y": response,
                      "read": 20.0, "x0": float(x0), "se": float(se)})
print(json.dumps({"source": "mpmath, 60 digits; see wide_ranges.py", "cases": cases}, indent=1))
