"""What can be wrong with a shop's data, each in a sentence with a way out."""

from __future__ import annotations

import errno


class NotFound(KeyError):
    """No such job, revision or thing of the library."""


class MissingBlob(NotFound):
    """A file or shape that a plan names is not on disk, or is not what was stored."""

    def __init__(self, digest: str, why: str = "is missing from"):
        super().__init__(
            f"the file or shape {digest[:12]} {why} the folder blobs; restore it from a backup, or take the"
            " drawing in again. The rest of the job can be used"
        )


def plain_fault(e: BaseException) -> tuple[int, str] | None:
    """A fault of disk or database as an HTTP status and a sentence; None where it is another fault.

    >>> plain_fault(OSError(28, "No space left on device"))[0]
    507
    """
    text = " ".join(str(getattr(e, "orig", None) or e).split())
    code = e.errno if isinstance(e, OSError) else None
    lower = text.lower()
    if code in (errno.ENOSPC, errno.EDQUOT) or "disk is full" in lower or "database or disk is full" in lower:
        return (
            507,
            (
                "the disk is full: nothing was stored, and all that was stored before is there. Make room and"
                " do it again"
            ),
        )
    if (
        code in (errno.EROFS, errno.EACCES, errno.EPERM)
        or "readonly database" in lower
        or "unable to open database" in lower
    ):
        return (
            507,
            (
                "the data folder cannot be written to: nothing was stored. Make it writable, or start Venzo"
                " with another folder (--data)"
            ),
        )
    if "malformed" in lower or "not a database" in lower:
        return (
            500,
            (
                "the database of this shop is damaged: stop Venzo, keep a copy of the folder, and bring back"
                " venzo.db from a backup"
            ),
        )
    if "database is locked" in lower:
        return 503, "the data is being written by another program: nothing was stored. Do it again"
    if code is not None:
        why = getattr(e, "strerror", None) or text
        return 507, f"the disk refuses: {why}. Nothing was stored"
    return None
