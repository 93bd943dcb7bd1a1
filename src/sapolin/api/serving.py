"""Running the application, and ending it: quickly, with every screen told and one whole database file left behind."""

import signal
import socket
from types import FrameType

import uvicorn
from fastapi import FastAPI

__all__ = ["serve_until_ended"]

GRACE_SECONDS = 2
"""Answers under way may take so long once the end was asked for."""


class _Server(uvicorn.Server):
    """A server that tells open streams of its end."""

    def __init__(self, config: uvicorn.Config, application: FastAPI) -> None:
        super().__init__(config)
        self._application = application

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        """The end was asked for: streams stop by themselves, so that nothing is waited for."""
        self._application.state.devices.ending = True
        super().handle_exit(sig, frame)


def serve_until_ended(application: FastAPI, listener: socket.socket) -> None:
    """Serve on `listener` until Ctrl+C, SIGTERM or SIGHUP."""
    config = uvicorn.Config(
        application, log_level="warning", timeout_keep_alive=75, timeout_graceful_shutdown=GRACE_SECONDS
    )  # fmt: skip
    server = _Server(config, application)
    signal.signal(signal.SIGHUP, server.handle_exit)
    server.run(sockets=[listener])
