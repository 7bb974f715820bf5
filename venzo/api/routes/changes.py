"""Routes by which a screen hears of what others change."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator

from fastapi import APIRouter, Depends, HTTPException
from fastapi.concurrency import run_in_threadpool
from fastapi.sse import EventSourceResponse

from venzo.core.model import Document
from venzo.store.store import Store

MOST_LISTENING = 64
"""Screens that hear of changes at the same time; each holds a connection."""


class JobChanged(Document):
    """A job has a newer revision."""

    revision: int


def routes(store: Store) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")
    listening: set[asyncio.Queue[int]] = set()

    def known(job: str) -> str:
        """Refused before anything is sent, so that the fault can be told."""
        store.head(job)
        if len(listening) >= MOST_LISTENING:
            raise HTTPException(503, f"{MOST_LISTENING} screens hear of changes already; close one")
        return job

    @router.get("/jobs/{job}/changes", response_class=EventSourceResponse)
    async def changes(job: str = Depends(known)) -> AsyncIterator[JobChanged]:
        """The number of a job's newest revision: now, and again after every edit, whoever makes it."""
        came: asyncio.Queue[int] = asyncio.Queue()
        loop = asyncio.get_running_loop()

        def tell(changed: str, number: int) -> None:
            if changed == job:
                loop.call_soon_threadsafe(came.put_nowait, number)

        end = store.watch(tell)
        listening.add(came)
        try:
            # after it listens, so that nothing falls between; beside the loop, since the disk may be slow
            yield JobChanged(revision=await run_in_threadpool(store.head, job))
            while True:
                number = await came.get()
                while not came.empty():  # only the newest matters
                    number = came.get_nowait()
                yield JobChanged(revision=number)
        finally:
            listening.discard(came)
            end()

    return router
