"""A whole job as one open archive: a zip with the plan and what it needs as JSON of a published schema, the
drawings as they came, and what follows from it for people and machines to read. The same job gives the same
bytes.

An archive is read as what it is until all of it has been checked: count, sizes, names, version, every
digest. Nothing of it is ever unpacked to disk.
"""

from __future__ import annotations

import hashlib
import io
import json
import re
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from venzo.core.model import Value
from venzo.core.parts.drawing import LARGEST_FILE
from venzo.core.plan import Plan
from venzo.core.snags import BadInput, plain_error
from venzo.core.voice import counted

VERSION = 1
MANIFEST = "job.json"
SCHEMA = "job.schema.json"
MOST_FILES = 5_000
LARGEST = 512 * 1024 * 1024
"""Bytes of all files of an archive together, unpacked."""
LARGEST_MANIFEST = 96 * 1024 * 1024
WHEN = (1980, 1, 1, 0, 0, 0)
"""The one time that all files bear: an archive says when in its manifest."""
Digest = Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]
Sha = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class ArchivedFile(Value):
    """A file of the archive that the plan needs: where it lies, of which kind, and how long."""

    path: Annotated[str, Field(min_length=1, max_length=300)]
    kind: Literal["drawing", "shape", "model"]
    bytes: Annotated[int, Field(ge=0, le=LARGEST_FILE)]


class Manifest(Value):
    """What an archive holds. ``files``: by the digests that the plan names; ``sheets``: digests of every
    sheet's cuts as they were derived; ``programs``: SHA-256 of every program, by name.
    """

    format: Literal["venzo job"] = "venzo job"
    version: Annotated[int, Field(ge=1)] = VERSION
    made_with: Annotated[str, Field(max_length=40)] = ""
    revision: Annotated[int, Field(ge=1, le=2**31 - 1)] = 1
    plan: Plan
    files: dict[Digest, ArchivedFile]
    sheets: dict[str, str] = {}
    programs: dict[str, Sha] = {}


@dataclass(frozen=True)
class Archive:
    """An archive that was checked: its manifest, and the files that its plan needs, by digest."""

    manifest: Manifest
    files: Mapping[str, bytes]


def schema() -> dict[str, Any]:
    """The published JSON schema of the manifest."""
    return Manifest.model_json_schema()


def safe_name(text: str) -> str:
    """A file name that any system takes.

    >>> safe_name("../Hide, ribs?.dxf"), safe_name("")
    ('Hide_ribs_.dxf', 'file')
    """
    plain = re.sub(r"[^A-Za-z0-9._-]+", "_", text.replace("\\", "/").rsplit("/", 1)[-1]).strip("._ ")
    return plain[:80] or "file"


def write_archive(manifest: Manifest, files: Mapping[str, bytes], more: Mapping[str, bytes]) -> bytes:
    """The archive's bytes.

    Args:
        files: bytes by digest, as the manifest names them. more: what is added to be read by people and
        machines, by path; it is not needed to bring the job back.
    """
    body = {
        MANIFEST: json.dumps(manifest.model_dump(mode="json"), indent=1, sort_keys=True).encode(),
        SCHEMA: json.dumps(schema(), indent=1, sort_keys=True).encode(),
    }
    body |= {manifest.files[d].path: data for d, data in files.items()} | dict(more)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        for name in sorted(body):
            info = zipfile.ZipInfo(name, WHEN)
            info.compress_type = zipfile.ZIP_DEFLATED
            info.external_attr = 0o644 << 16
            z.writestr(info, body[name])
    return out.getvalue()


def read_archive(data: bytes, name: str) -> Archive:
    """Read and check an archive.

    Raises:
        BadInput: it is none, too large, of a newer version, damaged, or it lacks a file that its plan names.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as z:
            return _checked(z, name)
    except (
        zipfile.BadZipFile,
        zipfile.LargeZipFile,
        zlib.error,
        NotImplementedError,
        EOFError,
        OSError,
        ValueError,
    ) as e:
        if isinstance(e, BadInput):
            raise
        raise BadInput(f"{name}: no archive of a job, or a damaged one ({e}); export it again") from e
    except RuntimeError as e:  # asked for a password
        raise BadInput(f"{name}: the archive is locked with a password; export it again without") from e


def _checked(z: zipfile.ZipFile, name: str) -> Archive:
    entries = z.infolist()
    if len(entries) > MOST_FILES:
        raise BadInput(f"{name}: {counted(len(entries), 'file')} are more than the limit of {MOST_FILES}")
    for e in entries:
        if e.filename.startswith(("/", "\\")) or ".." in re.split(r"[/\\]", e.filename) or ":" in e.filename:
            raise BadInput(
                f"{name}: the archive names a file outside itself ({e.filename[:80]!r}); it is refused"
            )
    whole = sum(e.file_size for e in entries)
    if whole > LARGEST:
        raise BadInput(
            f"{name}: {whole / 1e6:.0f} MB unpacked are more than the limit of {LARGEST // 1024**2} MB"
        )
    by_name = {e.filename: e for e in entries}
    if len(by_name) != len(entries):
        raise BadInput(f"{name}: the archive has two files of one name; it is refused")
    if MANIFEST not in by_name:
        raise BadInput(f"{name}: no archive of a job: it has no {MANIFEST}")
    manifest = _manifest(_bytes(z, by_name[MANIFEST], LARGEST_MANIFEST, name), name)
    files: dict[str, bytes] = {}
    for digest, f in manifest.files.items():
        if f.path not in by_name:
            raise BadInput(f"{name}: {f.path} is missing from the archive; export it again")
        files[digest] = _bytes(z, by_name[f.path], LARGEST_FILE, name)
        if len(files[digest]) != f.bytes:
            raise BadInput(
                f"{name}: {f.path} has {len(files[digest])} bytes, {f.bytes} are named; export again"
            )
        if f.kind == "drawing" and hashlib.sha256(files[digest]).hexdigest()[:32] != digest:
            raise BadInput(f"{name}: {f.path} is not the file that the plan names; it was altered")
    missing = sorted(manifest.plan.blobs - files.keys())
    if missing:
        raise BadInput(f"{name}: the archive lacks {len(missing)} of what its plan names")
    return Archive(manifest, files)


def _manifest(data: bytes, name: str) -> Manifest:
    try:
        raw = json.loads(data)
    except (ValueError, RecursionError) as e:
        raise BadInput(f"{name}: {MANIFEST} is no JSON; the archive is damaged") from e
    if not isinstance(raw, dict) or raw.get("format") != "venzo job":
        raise BadInput(f"{name}: {MANIFEST} does not say that it is a job of Venzo")
    version = raw.get("version")
    if version != VERSION:
        raise BadInput(
            f"{name}: the archive is of version {str(version)[:20]}, this Venzo reads version {VERSION}; use"
            " a newer one, or export from this one"
        )
    try:
        return Manifest.model_validate(raw)
    except ValidationError as e:
        raise BadInput(f"{name}: {plain_error(e)}") from e


def _bytes(z: zipfile.ZipFile, entry: zipfile.ZipInfo, most: int, name: str) -> bytes:
    """The bytes of an entry, whatever it says of its own size."""
    with z.open(entry) as f:
        data = f.read(most + 1)
    if len(data) > most:
        raise BadInput(f"{name}: {entry.filename} is larger than the limit of {most // 1024**2} MB")
    return data
