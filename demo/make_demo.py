#!/usr/bin/env python3
"""Makes the demo data of the invented laboratory of Alderbrook, a cider and juice works.

Patulin in juice by competitive ELISA: a falling 4PL curve, 96 wells, 7 standards in duplicate (500 µg/L, each next
level divided by 3), two blanks, two QC levels in duplicate, 38 unknowns in duplicate. Seeded: running it again writes
the same files. The true values stand in truth.csv, so that results can be compared with them.

Total polyphenols by absorbance (gallic acid, mg/L), read at 765 nm with the turbidity at 900 nm: three plates of 384
wells, each with its own standards, blanks and QCs and an offset of its own; and the same from a list of cuvettes.

Esters in cider by gas chromatography: 24 runs of one column each, six levels, two QCs, six ciders injected twice.
Ascorbic acid in juice by square-wave voltammetry: two juices, each as it is and with three additions, all twice.

Usage: python3 demo/make_demo.py   (from the project folder)
"""
import math
import os
import random

A, B, C, D, BLANK = 2.320, 1.13, 21.0, 0.070, 0.061
NAMES = [  # sample, dilution factor, true concentration in the undiluted sample in µg/L
    ("Clear juice, line A", 5, 1.5), ("Clear juice, line B", 5, 31), ("Cloudy juice, tank 1", 5, 52),
    ("Cloudy juice, tank 2", 5, 88), ("Cloudy juice, tank 3", 5, 166), ("Cloudy juice, tank 4", 5, 74),
    ("Pressed pulp, bin 9", 5, 205), ("Pressed pulp, bin 11", 5, 262), ("Concentrate, drum 4", 50, 1340),
    ("Concentrate, drum 5", 50, 52000), ("Pear blend, batch 2", 5, 41), ("Pear blend, batch 3", 5, 36),
    ("Vinegar stock", 5, 57), ("Cider base, vat 2", 5, 107), ("Cider base, vat 3", 5, 117),
    ("Cider base, vat 5", 5, 96), ("Russet juice, lot 12", 5, 143), ("Russet juice, lot 13", 5, 133),
    ("Russet juice, lot 14", 5, 121), ("Windfall press, Monday", 5, 298), ("Windfall press, Tuesday", 5, 342),
    ("Windfall press, sorted", 5, 84), ("Quince mix", 5, 47), ("Rhubarb blend", 5, 26),
    ("Clear juice, line A, repeat", 5, 24), ("Clear juice, line C", 5, 33), ("Filter feed", 5, 71),
    ("Filter outlet", 5, 38), ("Evaporator feed", 5, 66), ("Evaporator product", 50, 655),
    ("Rinse water, press 1", 1, 9.5), ("Rinse water, press 2", 1, 14.2), ("Store sample, week 30", 5, 58),
    ("Store sample, week 32", 5, 62), ("Store sample, week 34", 5, 69), ("Store sample, week 36", 5, 77),
    ("Control juice, spiked low", 5, 60), ("Control juice, spiked high", 5, 240),
]


def curve(x):
    return D + (A - D) / (1 + (x / C) ** B)


def main():
    rng = random.Random(380917)
    here = os.path.join(os.path.dirname(os.path.abspath(__file__)), "patulin-elisa")
    plate = [[None] * 12 for _ in range(8)]

    def read(x):
        y = curve(x)
        return BLANK + y + rng.gauss(0, 0.009 * y + 0.002)

    for row in range(7):
        for column in range(2):
            plate[row][column] = read(500 / 3 ** row)
    plate[2][1] += 0.42  # C2: a bubble
    for column in range(2):
        plate[7][column] = BLANK + rng.gauss(0, 0.0015)
    for row, nominal in ((0, 12), (1, 80)):
        for column in (2, 3):
            plate[row][column] = read(nominal)
    places = [(row, column) for first in (2, 4, 6, 8, 10) for row in range(8) for column in (first, first + 1)]
    places = [p for p in places if not (p[0] < 2 and p[1] in (2, 3))]
    for index, (_, dilution, true) in enumerate(NAMES):
        for place in places[2 * index:2 * index + 2]:
            plate[place[0]][place[1]] = read(true / dilution)
    plate[1][5] += 0.145  # B6: U08, the replicates disagree
    cells = [["%.3f" % v for v in row] for row in plate]
    cells[3][7] = "OVER"  # D8: U18, second replicate

    with open(os.path.join(here, "plate-450.csv"), "w", encoding="utf-8", newline="\n") as out:
        out.write("Plate;Patulin week 38\nMeasured;2026-09-14 10:32\nWavelength;450 nm\n\n")
        out.write(";" + ";".join(str(c) for c in range(1, 13)) + "\n")
        for row, values in zip("ABCDEFGH", cells):
            out.write(row + ";" + ";".join(values) + "\n")
    with open(os.path.join(here, "samples.tsv"), "w", encoding="utf-8", newline="\n") as out:
        for name, dilution, _ in NAMES:
            out.write("%s\t%d\n" % (name, dilution))
    with open(os.path.join(here, "truth.csv"), "w", encoding="utf-8", newline="\n") as out:
        out.write("sample,true concentration in ug/L\nQC lo,12\nQC hi,80\n")
        for index, (_, _, true) in enumerate(NAMES):
            out.write("U%02d,%g\n" % (index + 1, true))


SLOPE = 0.0046  # absorbance per mg/L
LEVELS = [400, 200, 100, 50, 25, 12.5]


def polyphenols(rng, concentration, offset):
    """Absorbance at 765 nm and at 900 nm: both carry the turbidity of the well."""
    turbidity = rng.gauss(0.041, 0.006)
    colour = SLOPE * concentration
    return (offset + turbidity + colour + rng.gauss(0, 0.012 * colour + 0.0015), offset + turbidity + rng.gauss(0, 0.001))


def plates_of_384(here, rng):
    truth = open(os.path.join(here, "truth.csv"), "w", encoding="utf-8", newline="\n")
    truth.write("sample,true concentration in mg/L\n")
    sample = 0
    measured = {}
    for plate in range(3):
        offset = 0.05 + 0.012 * plate
        wells = [[None] * 24 for _ in range(16)]
        for row in range(16):  # columns 1 and 2: levels, blanks, two QCs
            x = LEVELS[row] if row < 6 else 0 if row < 10 else 40 if row < 13 else 240
            for column in range(2):
                wells[row][column] = polyphenols(rng, x, offset)
        for row in range(16):
            for pair in range(1, 12):
                if row < 14:  # diluted by 10
                    sample += 1
                    true = rng.uniform(18, 360) if sample % 37 else rng.uniform(430, 520)
                    truth.write("U%02d,%.4g\n" % (sample, 10 * true))
                    measured[row, pair] = true
                else:  # the two rows above once more, diluted by 40
                    true = measured[row - 2, pair] / 4
                for column in (2 * pair, 2 * pair + 1):
                    wells[row][column] = polyphenols(rng, true, offset)
        with open(os.path.join(here, "plate-%d.tsv" % (plate + 1)), "w", encoding="utf-8", newline="\n") as out:
            out.write("Total polyphenols\tplate %d\nMeasured\t2026-09-16 09:%02d\n\n" % (plate + 1, 10 + 7 * plate))
            for read, wave in enumerate(("765 nm", "900 nm")):
                out.write("Wavelength\t%s\n" % wave)
                out.write("\t" + "\t".join(str(c) for c in range(1, 25)) + "\n")
                for letter, row in zip("ABCDEFGHIJKLMNOP", wells):
                    out.write(letter + "\t" + "\t".join("%.3f" % well[read] for well in row) + "\n")
                out.write("\n")
    truth.close()


def cuvettes(here, rng):
    rows = [("Water blank", 0)] * 3
    rows += [("Gallic acid %g" % x, x) for x in LEVELS for _ in range(2)]
    rows += [("Control cider", 120)] * 2
    names = ["Cider base, vat 2", "Cider base, vat 3", "Perry, lot 8", "Russet juice, lot 12", "Quince mix", "Rhubarb blend"]
    truth = open(os.path.join(here, "truth.csv"), "w", encoding="utf-8", newline="\n")
    truth.write("sample,true concentration in mg/L\nControl cider,120\n")
    for name in names:
        true = rng.uniform(30, 330)
        truth.write("\"%s\",%.4g\n" % (name, true))
        rows += [(name, true)] * 3
    truth.close()
    with open(os.path.join(here, "cuvettes.csv"), "w", encoding="utf-8", newline="\n") as out:
        out.write("No;Sample;765 nm;900 nm\n")
        for number, (name, x) in enumerate(rows):
            at765, at900 = polyphenols(rng, x, 0.05)
            out.write("%d;%s;%.3f;%.3f\n" % (number + 1, name, at765, at900))


# name, time in min, half width (sigma), area in pA min for 1 mg/L, highest level in mg/L
ESTERS = [("Ethyl acetate", 2.84, 0.034, 0.060, 100), ("Isoamyl acetate", 4.62, 0.040, 0.280, 20),
          ("Ethyl hexanoate", 5.31, 0.041, 1.150, 5), ("Ethyl octanoate", 7.48, 0.048, 1.300, 5)]
PROPANOL = (3.62, 5.5)  # the internal standard: time, area of 40 mg/L
CIDERS = [  # name, true concentrations in mg/L in the order of ESTERS; 0: none of it
    ("Cider base, vat 2", (41, 3.1, 0.62, 0.48)), ("Cider base, vat 3", (58, 5.4, 1.10, 0.91)),
    ("Cider base, vat 5", (22, 1.3, 0.31, 0)), ("Perry, lot 8", (73, 8.8, 1.72, 1.35)),
    ("Keeved cider, week 6", (87, 12.4, 2.31, 1.90)), ("Windfall cider", (138, 14.9, 3.05, 2.44))]


def tailed(t, at, sigma, tail):
    """A Gaussian with a falling exponential, of area 1, by its closed form where that is stable."""
    z = sigma / tail - (t - at) / sigma
    if z > 6:  # the tail does not show on the rising side
        return math.exp(-((t - at) / sigma) ** 2 / 2) / (sigma * math.sqrt(2 * math.pi)) * (1 / z if z else 1) * sigma / tail
    return math.exp(sigma ** 2 / (2 * tail ** 2) - (t - at) / tail) * math.erfc(z / math.sqrt(2)) / (2 * tail)


def esters(here, rng):
    runs = [("Solvent", (0, 0, 0, 0))]
    runs += [("Level %d" % (i + 1), tuple(e[4] / 2.5 ** i for e in ESTERS)) for i in range(6)]
    runs += [("Control low", tuple(e[4] * 0.03 for e in ESTERS)), ("Control high", tuple(e[4] * 0.7 for e in ESTERS))]
    runs += [(name, true) for name, true in CIDERS[:3] for _ in range(2)]
    runs += [("Control low", tuple(e[4] * 0.03 for e in ESTERS))]
    runs += [(name, true) for name, true in CIDERS[3:] for _ in range(2)]
    runs += [("Control high", tuple(e[4] * 0.7 for e in ESTERS)), ("Solvent", (0, 0, 0, 0))]
    with open(os.path.join(here, "truth.csv"), "w", encoding="utf-8", newline="\n") as truth:
        truth.write("sample," + ",".join(e[0] + " in mg/L" for e in ESTERS) + "\n")
        for name, true in CIDERS:
            truth.write("\"%s\"," % name + ",".join("%g" % x for x in true) + "\n")
    columns = []
    for number, (name, true) in enumerate(runs):
        late = 1 + 0.00018 * number
        injected = 1 + 4 * (rng.gauss(1, 0.008) - 1)  # what the internal standard takes out again
        column = []
        for i in range(901):
            t = 0.01 * i
            y = 6 + 0.55 * t + 1.2 * math.sin(t / 3.1) + 900 * tailed(t, 1.06, 0.05, 0.11) * 0.2
            for (_, at, sigma, area, _), x in zip(ESTERS, true):
                y += injected * x * area * tailed(t, at * late, sigma, 0.45 * sigma) if x else 0
            if name != "Solvent":
                y += injected * PROPANOL[1] * tailed(t, PROPANOL[0] * late, 0.04, 0.018)
            if name in ("Perry, lot 8", "Keeved cider, week 6", "Windfall cider"):
                y += 0.3 * tailed(t, 5.52 * late, 0.045, 0.02)
            column.append(y + rng.gauss(0, 0.035))
        columns.append(column)
    with open(os.path.join(here, "esters.tsv"), "w", encoding="utf-8", newline="\n") as out:
        out.write("Esters in cider\tcapillary column, flame ionisation\n")
        out.write("Injected\t2026-09-18 08:10 to 13:40\n\n")
        out.write("Time (min)\t" + "\t".join("%s (pA)" % name for name, _ in runs) + "\n")
        for i in range(901):
            out.write("%.2f\t" % (0.01 * i) + "\t".join("%.2f" % column[i] for column in columns) + "\n")


def ascorbic_acid(here, rng):
    juices = [("Sea buckthorn juice", 31.5), ("Russet juice, lot 12", 9.2)]
    with open(os.path.join(here, "truth.csv"), "w", encoding="utf-8", newline="\n") as truth:
        truth.write("sample,true concentration in the cell in mg/L\n")
        for name, true in juices:
            truth.write("\"%s\",%g\n" % (name, true))
    columns, heads = [], []
    for name, true in juices:
        step = 10
        for addition in range(4):
            for repeat in range(2):
                heads.append(name + (" + %g mg/L" % (addition * step) if addition else "") + (", again" if repeat else ""))
                x = true + addition * step
                shift = 0.0006 * addition + rng.gauss(0, 0.0008)
                height = 0.118 * x * rng.gauss(1, 0.006)
                column = []
                for i in range(251):
                    e = -0.1 + 0.004 * i
                    ground = 0.9 + 0.8 * e + 2.6 / (1 + math.exp(-(e - 0.86) / 0.055)) + 0.35 * math.exp(-(e + 0.1) / 0.09)
                    wave = (e - 0.332 - shift) / 0.052
                    column.append(ground + height / math.cosh(wave / 1.35) ** 2 + rng.gauss(0, 0.006))
                columns.append(column)
    with open(os.path.join(here, "ascorbic-acid.tsv"), "w", encoding="utf-8", newline="\n") as out:
        out.write("Square wave\tfrequency 25 Hz, step 4 mV, amplitude 25 mV\n\n")
        out.write("Potential (V)\t" + "\t".join("%s (µA)" % head for head in heads) + "\n")
        for i in range(251):
            out.write("%.3f\t" % (-0.1 + 0.004 * i) + "\t".join("%.4f" % column[i] for column in columns) + "\n")


def other_demos():
    demo = os.path.dirname(os.path.abspath(__file__))
    for name, make, seed in (("polyphenols", plates_of_384, 765), ("cuvettes", cuvettes, 900), ("esters", esters, 462),
                             ("ascorbic-acid", ascorbic_acid, 332)):
        here = os.path.join(demo, name)
        os.makedirs(here, exist_ok=True)
        make(here, random.Random(seed))


if __name__ == "__main__":
    main()
    other_demos()
