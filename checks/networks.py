"""Holds what is read of water networks against the package wntr, file by file: pipes, junctions, valves, length, heights, and the room inside the pipes.

    python3 checks/networks.py PATH-TO-zero-leak [FILE ...] > checks/networks.snapshot.txt

The files are those of app/formats/tests/networks (from the package itself, its licence beside them), two made here in metres, and any that are named.
"""
import hashlib
import json
import math
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import wntr

program, *more = sys.argv[1:]
root = Path(__file__).resolve().parent.parent
shipped = sorted((root / "app/formats/tests/networks").glob("*.inp"))
print(f"wntr {wntr.__version__}")
for file in [Path(__file__), root / "app/formats/src/network.rs", *shipped]:
    print(f"sha256 {file.relative_to(root)} {hashlib.sha256(file.read_bytes()).hexdigest()}")


def made(unit, n):
    """A chain of pipes with branches, in the unit's lengths, its sections in another order than usual."""
    pipes = "\n".join(f" P{i}\tJ{i}\tJ{i // 2 if i % 7 == 0 else i + 1}\t{10 + i % 90}.5\t{100 + i % 5 * 50}\t130\t0\t{'CV' if i % 11 == 0 else 'Open'};" for i in range(1, n))
    nodes = "\n".join(f" J{i}   {i % 40}.25   0 ; {'hydrant' if i % 9 == 0 else ''}" for i in range(n + 1))
    return f"[PIPES]\n P0 R1 J0 12.5 300 130 0 Open\n{pipes}\n[OPTIONS]\n Units {unit}\n Headloss H-W\n[JUNCTIONS]\n{nodes}\n[RESERVOIRS]\n R1 60\n[VALVES]\n V1 J0 J1 200 PRV 40 0\n[END]\n"


folder = Path(tempfile.mkdtemp())
for unit in ["LPS", "CMH"]:
    (folder / f"made-{unit}.inp").write_text(made(unit, 500))
for file in [*shipped, *sorted(folder.glob("*.inp")), *map(Path, more)]:
    theirs = wntr.network.WaterNetworkModel(str(file))
    ours = json.loads(subprocess.run([program, "import", str(file)], check=True, capture_output=True, text=True).stdout)
    heights = [n.elevation for _, n in theirs.junctions()]
    expected = {
        "pipes": theirs.num_pipes,
        "junctions": theirs.num_junctions,
        "valves": theirs.num_valves,
        "pumps": theirs.num_pumps,
        "tanks_and_reservoirs": theirs.num_tanks + theirs.num_reservoirs,
        "rows_refused": 0,
    }
    for key, value in expected.items():
        assert ours[key] == value, (file, key, ours[key], value)
    figures = {
        "length_m": (ours["length_m"], sum(p.length for _, p in theirs.pipes())),
        "volume_m3": (ours["volume_m3"], sum(math.pi / 4 * p.diameter**2 * p.length for _, p in theirs.pipes())),
        "lowest": (ours["heights_m"][0], min(heights)),
        "highest": (ours["heights_m"][1], max(heights)),
    }
    for key, (a, b) in figures.items():
        assert abs(a - b) <= 1e-6 * max(1.0, abs(b)), (file, key, a, b)
    print(f"{file.name}: {ours['pipes']} pipes, {ours['junctions']} junctions, {ours['valves']} valves, {figures['length_m'][1]:.3f} m, {figures['volume_m3'][1]:.3f} m3, {min(heights):.3f} to {max(heights):.3f} m")
