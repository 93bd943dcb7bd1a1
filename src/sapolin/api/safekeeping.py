"""Backups, putting one back, the second place, and everything in one zip."""

from collections.abc import Iterator
from pathlib import Path
from tempfile import NamedTemporaryFile, TemporaryFile
from typing import Annotated

from fastapi import Body, Depends, Request
from fastapi.responses import FileResponse, StreamingResponse
from starlette.concurrency import run_in_threadpool

from sapolin.api.errors import Refusal
from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.services.make_day import resume_devices
from sapolin.services.safekeeping import (
    ReadBack,
    Safekeeping,
    export_everything,
    import_archive,
    put_back,
    state_of,
    what_would_change,
)
from sapolin.store.backup import Backup, Backups, Difference
from sapolin.store.clock import utc_now

__all__ = ["router"]

router = room("/api/safekeeping", "safekeeping")

PIECE_BYTES = 256_000


async def _database(request: Request) -> Path:
    database = request.app.state.settings.database
    assert isinstance(database, Path)
    return database


Database = Annotated[Path, Depends(_database)]


async def _is_looking(request: Request) -> bool:
    """Asked before backups are listed: where it is over, the one that was due is among them."""
    state = request.app.state
    return bool(state.is_looking) and state.fill_demo is None


IsLooking = Annotated[bool, Depends(_is_looking)]


@router.get("", summary="How safely everything is kept")
def get_safekeeping(stores: AllStores, database: Database, is_looking: IsLooking) -> Safekeeping:
    """Where the data is, how much of it there is, and its backups, the newest first."""
    return state_of(stores, database, is_looking=is_looking)


@router.post("/backups", summary="Take a backup")
def take_backup(database: Database) -> Backup:
    """A whole copy, checked. 507 when there is no room, or nothing can be written."""
    return Backups(database).take("asked")


@router.get("/backups/{name}/differences", summary="What would change if a backup were put back")
def get_differences(name: str, database: Database) -> tuple[Difference, ...]:
    """A dry run: nothing is changed. Kind by kind, also where nothing would change."""
    return what_would_change(database, Backups(database).path(name))


@router.get("/backups/{name}/file", summary="A backup as a file", response_class=FileResponse)
def download_backup(name: str, database: Database) -> FileResponse:
    """To be carried away; `sapolin restore FILE` puts it back, on another machine too."""
    return FileResponse(Backups(database).path(name), filename=name, media_type="application/vnd.sqlite3")


@router.post("/backups/{name}/restore", summary="Put a backup back")
def restore_backup(name: str, request: Request, stores: AllStores, database: Database) -> Backup:
    """Everything becomes as it was when the backup was taken; answers with the backup of what was there until now, which takes
    it back. Load every open page again after it.
    """
    before = put_back(stores, database, Backups(database).path(name))
    resume_devices(stores.batches, request.app.state.devices)
    return before


@router.put("/second-place", summary="Choose a second place for backups")
def choose_second_place(
    folder: Annotated[str | None, Body(embed=True, max_length=1000)],
    stores: AllStores,
    database: Database,
    is_looking: IsLooking,
) -> Safekeeping:
    """A folder on this machine, such as a stick or a synced drive, for a copy of each backup; null for none. 422 when nothing
    can be written there.
    """
    Backups(database).choose_second_place(folder)
    return state_of(stores, database, is_looking=is_looking)


@router.get("/archive", summary="Everything in one zip", response_class=StreamingResponse)
def export_archive(stores: AllStores, database: Database) -> StreamingResponse:
    """Every record as JSON lines, formulas as documents, tables for a spreadsheet, pictures, checksums, and the version."""
    written = TemporaryFile()  # noqa: SIM115 - open until it is sent
    export_everything(stores, database, written)
    size = written.tell()
    written.seek(0)

    def pieces() -> Iterator[bytes]:
        with written:
            while piece := written.read(PIECE_BYTES):
                yield piece

    name = f"sapolin-{utc_now()[:10]}.zip"
    headers = {"content-disposition": f'attachment; filename="{name}"', "content-length": str(size)}
    return StreamingResponse(pieces(), media_type="application/zip", headers=headers)


@router.post(
    "/archive",
    summary="Bring an archive in",
    openapi_extra={
        "requestBody": {
            "required": True, "content": {"application/zip": {"schema": {"type": "string", "format": "binary"}}},
        }
    },
)  # fmt: skip
async def read_archive_in(request: Request, stores: AllStores, database: Database) -> ReadBack:
    """What is not here yet goes in, what is here stays. The body is the zip. 422 when it is none, or damaged: nothing is
    changed then. The answer names the backup that takes it back.
    """
    if request.headers.get("content-type", "").partition(";")[0] != "application/zip":
        raise Refusal(422, "not_an_archive", "Send the archive as application/zip.")
    with NamedTemporaryFile() as received:
        async for piece in request.stream():
            await run_in_threadpool(received.write, piece)
        received.flush()
        received.seek(0)
        return await run_in_threadpool(import_archive, stores, database, received)
