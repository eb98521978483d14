#!/usr/bin/env python3
"""Makes the demo data of the invented laboratory of Alderbrook, a cider and juice works.

Patulin in juice by competitive ELISA: a falling 4PL curve, 96 wells, 7 standards in duplicate (500 µg/L, each next
level divided by 3), two blanks, two QC levels in duplicate, 38 unknowns in duplicate. Seeded: running it again writes
the same files. The true values stand in truth.csv, so that results can be compared with them.

Usage: python3 demo/make_demo.py   (from the project folder)
"""
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


if __name__ == "__main__":
    main()
