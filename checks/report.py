"""Opens a printed report with pikepdf, an independent reader, and prints what it found.

    python3 checks/report.py PATH-TO-zero-leak > checks/report.snapshot.txt

The report is printed from the example of docs/formats. The snapshot names the versions and the SHA-256 of what was looked at, so that
`cargo xtask check` can tell when it is stale.
"""
import hashlib
import subprocess
import sys
import tempfile
from pathlib import Path

import pikepdf

root = Path(__file__).resolve().parent.parent
example = root / "docs/formats/sealed-record.example.json"
print(f"pikepdf {pikepdf.__version__}")
for name in ["checks/report.py", "docs/formats/sealed-record.example.json", "app/report/src/report.typ", "app/report/src/charts.typ"]:
    print(f"sha256 {name} {hashlib.sha256((root / name).read_bytes()).hexdigest()}")

with tempfile.TemporaryDirectory() as folder:
    for extra in [[], ["--paper", "letter"], ["--certificate"]]:
        out = Path(folder) / "report.pdf"
        subprocess.run([sys.argv[1], "print", str(example), "--out", str(out), "--site", "Merrowick Works", *extra], check=True)
        with pikepdf.open(out) as pdf:
            attached = pdf.attachments["record.sealed.json"]
            same = attached.get_file().read_bytes() == example.read_bytes()
            metadata = pdf.open_metadata()
            images = sum(1 for o in pdf.objects if isinstance(o, pikepdf.Stream) and o.get("/Subtype") == "/Image")
            size = [float(v) for v in pdf.pages[0].mediabox[2:]]
            print(f"{' '.join(extra) or 'report'}: PDF/A-{metadata.get('pdfaid:part')}{metadata.get('pdfaid:conformance')}, PDF/UA-{metadata.get('pdfuaid:part')},"
                  f" page {size[0]:.0f} x {size[1]:.0f} pt, {len(pdf.pages)} pages, {images} raster images,"
                  f" attached {attached.filename} ({attached.relationship}), the same as the sealed file: {same}")
