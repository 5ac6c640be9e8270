"""Looks at signed pages with pyHanko, an independent validator of PDF signatures, and prints what it found.

    python3 checks/signed_pages.py PATH-TO-zero-leak > checks/signed_pages.snapshot.txt

The pages are printed from a record of tests/old_files with the key that sealed it. pyHanko is given the installation's certificate as its only
trust root. It must call the pages valid, reject one byte altered in place, and reject pages painted over by an incremental update.
"""
import asyncio
import hashlib
import io
import logging
import subprocess
import sys
import tempfile
from pathlib import Path

import pikepdf
from importlib.metadata import version
from asn1crypto import x509
from pyhanko.pdf_utils.incremental_writer import IncrementalPdfFileWriter
from pyhanko.pdf_utils.generic import StreamObject, pdf_name
from pyhanko.pdf_utils.reader import PdfFileReader
from pyhanko.sign.diff_analysis import ModificationLevel
from pyhanko.sign.validation import async_validate_pdf_signature
from pyhanko_certvalidator import ValidationContext

logging.disable(logging.CRITICAL)
root = Path(__file__).resolve().parent.parent
record = root / "tests/old_files/2/sealed-record.four-signatures.json"
key = root / "tests/old_files/2/sealing.key"
print(f"pyHanko {version('pyHanko')}, pikepdf {pikepdf.__version__}")
for name in ["checks/signed_pages.py", "tests/old_files/2/sealed-record.four-signatures.json", "app/paper/src/signed.rs", "app/paper/src/paper_key.rs"]:
    print(f"sha256 {name} {hashlib.sha256((root / name).read_bytes()).hexdigest()}")


def look(pdf: bytes, certificate: x509.Certificate) -> str:
    reader = PdfFileReader(io.BytesIO(pdf), strict=False)
    signature = reader.embedded_signatures[0]
    context = ValidationContext(trust_roots=[certificate], allow_fetching=False)
    status = asyncio.run(async_validate_pdf_signature(signature, context))
    whole = status.coverage.name
    return (f"intact {status.intact}, valid {status.valid}, trusted {status.trusted}, covers {whole}, changes {status.modification_level.name if status.modification_level else 'none looked for'},"
            f" allowed by DocMDP {status.docmdp_ok}, bottom line {status.bottom_line}")


with tempfile.TemporaryDirectory() as folder:
    out, certificate = Path(folder) / "report.pdf", Path(folder) / "certificate.der"
    subprocess.run([sys.argv[1], "certificate", "--key-file", str(key), "--out", str(certificate)], check=True)
    subprocess.run([sys.argv[1], "print", str(record), "--out", str(out), "--site", "Merrowick Works", "--key-file", str(key)], check=True)
    trusted = x509.Certificate.load(certificate.read_bytes())
    print(f"certificate: {trusted.subject.human_friendly}, until {trusted.not_valid_after:%Y-%m-%d}, {trusted.public_key.algorithm} {trusted.public_key.curve[1]}")
    pdf = out.read_bytes()
    signature = PdfFileReader(io.BytesIO(pdf)).embedded_signatures[0]
    print(f"signature: {signature.sig_object['/SubFilter']}, DocMDP {signature.docmdp_level.name}, by that certificate: {signature.signer_cert.dump() == trusted.dump()}")
    print(f"as printed: {look(pdf, trusted)}")
    altered = bytearray(pdf)
    altered[len(pdf) // 2] ^= 1
    print(f"one byte altered: {look(bytes(altered), trusted)}")
    writer = IncrementalPdfFileWriter(io.BytesIO(pdf), strict=False)
    page = writer.root["/Pages"]["/Kids"][0]
    paint = writer.add_object(StreamObject(stream_data=b"1 0 0 rg 100 700 300 40 re f"))
    contents = page.raw_get("/Contents")
    from pyhanko.pdf_utils.generic import ArrayObject
    page[pdf_name("/Contents")] = ArrayObject([contents, paint])
    writer.mark_update(writer.root["/Pages"]["/Kids"].raw_get(0))
    painted = io.BytesIO()
    writer.write(painted)
    print(f"painted by an update: {look(painted.getvalue(), trusted)}")
    (Path(folder) / "painted.pdf").write_bytes(painted.getvalue())
    for name, file in [("as printed", out), ("painted", Path(folder) / "painted.pdf")]:
        done = subprocess.run([sys.argv[1], "verify", str(file)], capture_output=True, text=True)
        print(f"zero-leak verify of it {name}: exit {done.returncode}, {done.stdout.splitlines()[0]}")
    with pikepdf.open(out) as opened:
        metadata = opened.open_metadata()
        print(f"still PDF/A-{metadata.get('pdfaid:part')}{metadata.get('pdfaid:conformance')}, PDF/UA-{metadata.get('pdfuaid:part')}, {len(opened.pages)} pages")
