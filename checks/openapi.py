"""Holds docs/openapi.json against the specification with openapi-spec-validator, an independent package.

    python3 checks/openapi.py > checks/openapi.snapshot.txt
"""
import hashlib
import json
from importlib.metadata import version
from pathlib import Path

from openapi_spec_validator import OpenAPIV31SpecValidator

root = Path(__file__).resolve().parent.parent
print(f"openapi-spec-validator {version('openapi-spec-validator')}")
for name in ["checks/openapi.py", "docs/openapi.json"]:
    print(f"sha256 {name} {hashlib.sha256((root / name).read_bytes()).hexdigest()}")
description = json.loads((root / "docs/openapi.json").read_text())
errors = sorted(f"{'/'.join(map(str, e.absolute_path))}: {e.message}" for e in OpenAPIV31SpecValidator(description).iter_errors())
routes = sum(1 for p in description["paths"].values() for m in p if m in {"get", "put", "post", "delete"})
print(f"OpenAPI {description['openapi']}, {routes} operations, {len(errors)} errors")
for e in errors:
    print(e)
