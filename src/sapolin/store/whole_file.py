"""Small files beside the database, such as a list or a key."""

import os
from pathlib import Path

__all__ = ["write_whole"]


def write_whole(file: Path, content: bytes) -> None:
    """Write a file for its owner alone, whole or not at all; it is on the disk when this returns. Raises OSError."""
    part = file.with_name(f"{file.name}.part")
    with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as stream:
        stream.write(content)
        stream.flush()
        os.fsync(stream.fileno())
    part.replace(file)
