"""Lists every package, font and bundled native library that is installed or served, with its licence.

Python packages say theirs in their metadata, front-end packages in the lock file. Libraries that wheels bring along
say nothing: theirs are in native_licences.json, from the home pages of their projects (from memory).
"""

import json
import re
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from importlib import metadata
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parent.parent
DOCS = ROOT / "docs"
_NAME = re.compile(r"^([A-Za-z0-9._-]+)==", re.MULTILINE)
_LIBRARY = re.compile(r"^(lib[A-Za-z0-9_]+?)(?:-[\w.-]*)?\.so")
# What older packages write, and its SPDX identifier.
_SPDX = {
    "MIT License": "MIT",
    "BSD": "BSD-3-Clause",
    "BSD License": "BSD-3-Clause",
    "BSD 2-Clause License": "BSD-2-Clause",
    "BSD 3-Clause License": "BSD-3-Clause",
    "ISC License": "ISC",
    "ISC License (ISCL)": "ISC",
    "Apache 2.0": "Apache-2.0",
    "Apache 2.0 License": "Apache-2.0",
    "Apache Software License": "Apache-2.0",
    "Mozilla Public License 2.0 (MPL 2.0)": "MPL-2.0",
}
# Identifiers that allow to install and use a part as it is. Copyleft ones ask more of whoever hands it on.
_ALLOWED = re.compile(
    r"0BSD|Apache-2\.0|BSD-[\w-]+|BlueOak-1\.0\.0|CC0-1\.0|CNRI-Python|FTL|GCC-exception-3\.1|"
    r"(?:L?GPL)-[\d.]+(?:-or-later|-only)?|HPND|IJG|ISC|LLVM-exception|MIT(?:-[\w-]+)?|MPL-2\.0|OFL-1\.1|OLDAP-2\.8|"
    r"OpenSSL|PSF-2\.0|PostgreSQL|Python-2\.0(?:\.1)?|Unlicense|Zlib|ZPL-2\.1|libpng-2\.0|libtiff"
)
_BETWEEN = re.compile(r"[()\s]+|\b(?:AND|OR|WITH)\b")


@dataclass(frozen=True)
class Part:
    """Something of others: a package or a library, and where it is from."""

    name: str
    version: str
    licence: str
    kind: str

    @property
    def may_be_used(self) -> bool:
        """Whether its licence is known and allows the use."""
        named = [each for each in _BETWEEN.split(self.licence) if each]
        return bool(named) and all(_ALLOWED.fullmatch(each) for each in named)


def parts() -> list[Part]:
    """Return everything, by kind and name."""
    return [*_python(), *_front_end(), *_native()]


def _locked() -> list[str]:
    text = (ROOT / "requirements.lock").read_text(encoding="utf-8")
    # Node comes with the machine, or by a wheel where it does not.
    return [name for name in _NAME.findall(text) if not name.startswith("nodejs")]


def _python() -> Iterator[Part]:
    for name in _locked():
        try:
            found = metadata.distribution(name)
        except metadata.PackageNotFoundError:
            continue
        yield Part(name, found.version, _licence(found.metadata), "Python")


def _licence(facts: Any) -> str:
    if stated := facts.get("License-Expression"):
        return str(stated)
    short = (facts.get("License") or "").strip()
    classified = [
        each.rsplit(" :: ", 1)[-1]
        for each in facts.get_all("Classifier", [])
        if each.startswith("License :: OSI Approved :: ")
    ]
    for said in [short, *classified]:
        if said in _SPDX:
            return _SPDX[said]
    return short if short and len(short) < 60 else "unknown"


def _front_end() -> Iterator[Part]:
    lock = json.loads((ROOT / "web/package-lock.json").read_text(encoding="utf-8"))
    found = {
        (path.rpartition("node_modules/")[2], facts["version"], facts.get("license", "unknown"))
        for path, facts in lock["packages"].items()
        if path
    }
    for name, version, licence in sorted(found):
        kind = "Font" if name.startswith("@fontsource/") else "Front end"
        yield Part(name, version, licence, kind)


def _native() -> Iterator[Part]:
    known = json.loads((ROOT / "scripts/native_licences.json").read_text(encoding="utf-8"))
    found = set()
    for name in _locked():
        try:
            files = metadata.distribution(name).files or []
        except metadata.PackageNotFoundError:
            continue
        for file in files:
            match = _LIBRARY.match(file.name)
            if match and file.parts[0].endswith(".libs"):
                found.add((match[1], name))
    for library, owner in sorted(found):
        # Some are built otherwise in one wheel than in the others.
        licence = known.get(f"{library} in {owner}", known.get(library, "unknown"))
        yield Part(library, f"in {owner}", licence, "Native library")


def report(found: list[Part]) -> str:
    """Return the page."""
    lines = [
        "# What is installed and served of others",
        "",
        (
            "Every package, font and bundled native library, with its licence as an SPDX expression, written by"
            " `scripts/third_party`; [sbom.json](sbom.json) says the same as a CycloneDX document. Tests fail on a"
            " licence that is unknown or forbids the use. Front-end packages build and test the pages; what of"
            " them is served lies in `web/build`. Some are under the GPL: FFmpeg with x264 and x265, as PyAV brings"
            " it. They are installed as they are; whoever hands them on has to keep to that licence."
        ),
    ]
    for kind in dict.fromkeys(each.kind for each in found):
        lines += ["", f"## {kind}", "", "| name | version | licence |", "| --- | --- | --- |"]
        lines += [
            f"| {each.name} | {each.version} | {each.licence} |"
            for each in found
            if each.kind == kind
        ]
    return "\n".join(lines) + "\n"


def sbom(found: list[Part]) -> dict[str, Any]:
    """Return a CycloneDX 1.6 document (ECMA-424)."""
    kinds = {"Python": "pypi", "Front end": "npm", "Font": "npm"}
    text = "".join(f"{each.name} {each.version}\n" for each in found)
    return {
        "bomFormat": "CycloneDX",
        "specVersion": "1.6",
        "serialNumber": f"urn:uuid:{uuid.uuid5(uuid.NAMESPACE_URL, text)}",
        "version": 1,
        "components": [
            {
                "type": "library",
                "name": each.name,
                "version": each.version,
                "licenses": [{"expression": each.licence}],
                **(
                    {
                        "purl": f"pkg:{kinds[each.kind]}/{each.name.replace('@', '%40')}@{each.version}"
                    }
                    if each.kind in kinds
                    else {}
                ),
            }
            for each in found
        ],
    }


def main() -> None:
    """Write both."""
    found = parts()
    (DOCS / "third-party.md").write_text(report(found), encoding="utf-8")
    text = json.dumps(sbom(found), indent=1, ensure_ascii=False)
    (DOCS / "sbom.json").write_text(text + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
