"""Files that are sent as the body of a request."""

import os
from pathlib import Path
from typing import Annotated
from uuid import uuid4

from fastapi import Query, Request

from ..core.errors import InputError
from ..services.health import check_room
from ..settings import Settings
from .dependencies import Text

FileName = Annotated[Text, Query(min_length=1, max_length=255)]
#: What the description of the API says of such a body.
BODY = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}
MOST_BYTES = 4_000_000_000


def base_name(file_name: str) -> str:
    """Return the last part of a file name, whatever system wrote it."""
    return Path(file_name.replace("\\", "/")).name or "file"


def owner_only(path: str, flags: int) -> int:
    """Open a file that nobody but its owner may read."""
    return os.open(path, flags, 0o600)


async def stored_upload(request: Request, settings: Settings, file_name: str) -> Path:
    """Stream the body into a file of its own; nothing is left behind if it is too large or breaks off."""
    folder, most_bytes = settings.deliveries, settings.most_upload_bytes
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    path = folder / f"{uuid4().hex}{Path(file_name).suffix[:10].lower()}"
    size = 0
    try:
        with open(path, "xb", opener=owner_only) as file:
            async for chunk in request.stream():
                size += len(chunk)
                if size > most_bytes:
                    raise InputError(
                        f"the file is larger than the {most_bytes // 1_000_000} MB that can be brought in",
                        file=file_name,
                    )
                check_room(settings)
                file.write(chunk)
            file.flush()
            os.fsync(file.fileno())
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return path
