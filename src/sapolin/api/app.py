"""The application: the API and, when built, the pages."""

import asyncio
import logging
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from pathlib import Path
from threading import Event
from typing import Protocol

from fastapi import FastAPI
from sqlalchemy.exc import OperationalError
from starlette.concurrency import run_in_threadpool
from starlette.middleware.gzip import GZipMiddleware

from sapolin import __version__
from sapolin.api import (
    amounts,
    batches,
    buying,
    compare,
    compute,
    cure,
    devices,
    formulas,
    guide,
    health,
    imports,
    labels,
    making,
    materials,
    moulds,
    oil_notes,
    pairing,
    preparations,
    prices,
    recipes,
    reference,
    safekeeping,
    solve,
    stock,
    swap,
    target_sets,
    today,
    trials,
    workshop,
)  # fmt: skip
from sapolin.api.clean_text import CleanText
from sapolin.api.errors import add_error_handlers
from sapolin.api.guard import LOOPBACK, DatabaseWatch, Guard, TrustedHosts
from sapolin.api.jobs import Jobs
from sapolin.api.keyed import KeyedPosts
from sapolin.api.pages import serve_assets, serve_pages
from sapolin.api.settings import Settings
from sapolin.devices.workbench import Workbench
from sapolin.services.batches import keep_missing_outcomes, keep_missing_starts
from sapolin.services.followed import keep_missing_taught
from sapolin.services.lists import forget_old_summaries, sum_up
from sapolin.services.make_day import resume_devices
from sapolin.store.backup import BackupError, Backups
from sapolin.store.doctor import quick_look
from sapolin.store.pairing import Pairing
from sapolin.store.stores import Stores, open_stores
from sapolin.store.transactions import SentStore
from sapolin.store.workshop import DATABASE

__all__ = ["create_app"]

_log = logging.getLogger("sapolin")

GZIP_LEVEL = 5
"""Half the time of the highest for 2 % more bytes."""

_DESCRIPTION = """
Design, weigh, make and learn from soap.

Weights are in g, temperatures in °C, shares in percent, unless a name says otherwise. Every error has one shape:
`{"error": {"code", "message", "problems": [{"code", "severity", "path", "params", "message", "remedy"}]}}`.
Sentences are lists of strings and quantities: whoever shows them puts units and number formats in.

Every POST takes a key, 8 to 64 characters: in the header `Idempotency-Key`, or as `key` of what is added to a record.

| Sent again | Answer |
| --- | --- |
| the same key, the same content | as the first time, with `Idempotency-Replayed: true`; of a record, as it is now |
| the same key, other content | 409 `key_used`, nothing is done |
| the same key, done, but its answer is kept no more | 409 `done_already`, nothing is done |
| the same key after an error | tried anew |

Nothing is done twice, whether the second comes later, at the same time, or after the server was ended. `after_seq` and
`plan_revision` say what a device has seen; they may differ when an entry is sent again. Keys are remembered for 30 days.
A request may name the database it means in the header `Sapolin-Database`, as the page does; where another one is served by
now it is answered with 409 `another_database`.
"""
_TAGS = [
    {"name": "compute", "description": "Results from a formula sent along; nothing is kept."},
    {"name": "formulas", "description": "Formulas and their versions, kept."},
    {"name": "materials", "description": "The maker's own oils, certificates and mixtures, kept."},
    {"name": "swap", "description": "What replaces an oil that goes; nothing is kept."},
    {"name": "solve", "description": "The best blend for what is wanted, and why not everything can be had."},
    {"name": "target sets", "description": "Targets under a name, for any formula."},
    {"name": "compare", "description": "Formulas and versions side by side, and what changed."},
    {"name": "batches", "description": "Batches, planned and on paper."},
    {"name": "making", "description": "Make day: a record that only grows."},
    {"name": "cure", "description": "After the pour: mould, cutting, trays, drying, and whether bars are fit to use."},
    {"name": "trials", "description": "Bars put to the test: sheets, blind comparisons, trials, and what they teach."},
    {"name": "devices", "description": "Scale and thermometer, where there are any; the demo has simulated ones."},
    {"name": "moulds", "description": "Moulds and what they take."},
    {"name": "guide", "description": "Why, where schools differ, safety, the fault finder and practice."},
    {"name": "preparations", "description": "Paste diluted, soap rebatched, lye and oils mixed ahead."},
    {"name": "stock", "description": "Lots and their ledger: in hand, promised, free, used, traced."},
    {
        "name": "labels",
        "description": "Labels of batches: ingredients by weight, net weight, claims, drawn and printed.",
    },
    {"name": "prices", "description": "What oils cost."},
    {"name": "recipes", "description": "Recipes from paper."},
    {"name": "oil notes", "description": "Favourites, oils that are never used, what is left of each."},
    {"name": "today", "description": "What is due, and what can be found."},
    {"name": "workshop", "description": "The workshop itself: whom to call."},
    {"name": "safekeeping", "description": "Backups, putting one back, and everything in one zip."},
    {"name": "paired devices", "description": "Phones and tablets on the local network: pair, limit, end."},
    {"name": "reference", "description": "The catalogue and the shared vocabulary."},
    {"name": "application", "description": "The running application."},
]


class DemoWorld(Protocol):
    """What fills a database with a made-up world."""

    def wants_filling(self, stores: Stores) -> bool:
        """Whether there is no such world yet, or only a part of one."""
        ...

    def fill(self, stores: Stores) -> None:
        """Empty the stores and fill them."""
        ...


CHECKPOINT_SECONDS = 120.0
"""So often the write-ahead log is folded into the file: a copy of it taken meanwhile lacks no more than that."""


GIVE_WAY_SECONDS = 0.05
"""So long what is summed up in the background rests, so that nobody who works meanwhile has to wait for it."""


LOOK_SECONDS = 3600.0
"""So often it is looked whether a backup is due, the file whole, and the disk full."""


def _looked_after(database: Path, is_demo: bool) -> str | None:
    """Take the backup that is due; what the maker has to be told, if anything."""
    trouble = quick_look(database)
    if trouble is None and not is_demo:
        try:
            backups = Backups(database)
            trouble = backups.clock_trouble()
            backups.take_if_due()
        except (BackupError, OSError) as error:
            trouble = f"No backup could be taken. {error}"
    if trouble is not None:
        _log.warning("%s", trouble)
    return trouble


async def _look_after(app: FastAPI) -> None:
    """Look at the file, the disk and the backups while the application runs; what is wrong is shown, and looked at again."""
    database: Path = app.state.settings.database
    while True:
        app.state.trouble = await run_in_threadpool(_looked_after, database, app.state.fill_demo is not None)
        app.state.is_looking = False
        await asyncio.sleep(LOOK_SECONDS)


@asynccontextmanager
async def _lifespan(app: FastAPI) -> AsyncIterator[None]:
    """Keep the database file whole while the application runs, and when it ends."""
    stores: Stores = app.state.stores

    async def keep_whole() -> None:
        while True:
            await asyncio.sleep(CHECKPOINT_SECONDS)
            with suppress(OperationalError):  # Someone is reading: the next time will do.
                await run_in_threadpool(stores.checkpoint)

    keeping = asyncio.create_task(keep_whole())
    ending = Event()
    looking_after = asyncio.create_task(_look_after(app))

    def goes_on() -> bool:
        return not ending.wait(GIVE_WAY_SECONDS)

    def add_up_and_sum_up() -> None:
        try:
            keep_missing_taught(stores, goes_on)
            sum_up(stores, goes_on)
        except OperationalError as error:  # A full disk: lists sum up what they show, the next start does the rest.
            _log.warning("What lists show could not be summed up ahead: %s", error.orig)

    summing_up = asyncio.create_task(run_in_threadpool(add_up_and_sum_up))
    try:
        yield
    finally:
        ending.set()
        for task in (keeping, looking_after):
            task.cancel()
        ended = await asyncio.gather(keeping, looking_after, summing_up, return_exceptions=True)
        for error in ended:
            if isinstance(error, Exception):
                _log.error("Work in the background ended early.", exc_info=error)
        await run_in_threadpool(stores.close)


def create_app(settings: Settings, demo: DemoWorld | None = None) -> FastAPI:
    """The application on the database of `settings`; `demo` fills it when it is a new demo, and may reset it."""
    app = FastAPI(
        title="Sapolin",
        version=__version__,
        description=_DESCRIPTION,
        openapi_tags=_TAGS,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        lifespan=_lifespan,
    )
    app.state.settings = settings
    stores = open_stores(settings.database)
    app.state.stores = stores
    app.state.database_name = stores.workshop.mark(DATABASE) or ""
    app.state.jobs = Jobs()
    app.state.pairing = Pairing(settings.database)
    app.state.network = None
    app.state.authority = None
    app.state.trouble = None
    app.state.is_looking = True
    # A real workshop has no instruments until it has some: simulated ones belong to the demo.
    app.state.devices = Workbench() if demo is None else Workbench.simulated()
    app.state.fill_demo = None if demo is None else demo.fill
    if demo is not None and demo.wants_filling(stores):
        demo.fill(stores)
    keep_missing_starts(stores.batches)
    keep_missing_outcomes(stores.batches)
    forget_old_summaries(stores)
    sent = SentStore(stores.engine)
    sent.forget_old()
    resume_devices(stores.batches, app.state.devices)
    add_error_handlers(app)
    if settings.web is not None:
        serve_assets(app, settings.web)
    rooms = (
        compute, amounts, formulas, materials, swap, solve, target_sets, compare, trials, batches, making, cure, devices,
        moulds, prices, stock, buying, labels, imports, preparations, guide,
        oil_notes, recipes, workshop, safekeeping, pairing, today, reference, health,
    )  # fmt: skip
    for room in rooms:
        app.router.routes.extend(room.router.routes)
    if settings.web is not None:
        serve_pages(app, settings.web)
    app.add_middleware(CleanText)
    app.add_middleware(KeyedPosts, sent=sent)
    app.add_middleware(GZipMiddleware, minimum_size=2000, compresslevel=GZIP_LEVEL)
    app.add_middleware(DatabaseWatch, database=settings.database, name=app.state.database_name)
    app.add_middleware(Guard)
    app.add_middleware(TrustedHosts, allowed_hosts=LOOPBACK, www_redirect=False)
    return app
