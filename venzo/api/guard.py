"""Only this machine's own pages may talk to the server: host, origin and size of every request are checked
before anything is done.
"""

from __future__ import annotations

from urllib.parse import unquote, urlsplit

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from venzo.store.author import made_by

LARGEST_BODY = 128 * 1024 * 1024
LONGEST_PATH = 2000
"""Characters of an address, its query apart."""
SAFE = ("GET", "HEAD", "OPTIONS")


class Signed:
    """Takes the name of whoever works at the screen from the header ``x-author`` (percent-encoded UTF-8)."""

    def __init__(self, app: ASGIApp):
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        name = unquote(Headers(scope=scope).get("x-author", "")) if scope["type"] == "http" else ""
        with made_by(name):
            await self.app(scope, receive, send)


class TooLarge(Exception):
    """More bytes came than a request may have."""


class Guard:
    """Refuses requests for other hosts (DNS rebinding), from other origins, and bodies over 128 MB however
    they are sent; adds safe headers.
    """

    def __init__(self, app: ASGIApp, address: str):
        self.app = app
        port = address.rsplit(":", 1)[1] if ":" in address else ""
        self.hosts = {f"{h}:{port}" if port else h for h in ("127.0.0.1", "localhost", "[::1]")} | {address}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        refusal = self._refusal(scope, Headers(scope=scope))
        if refusal:
            await JSONResponse({"detail": refusal[1]}, refusal[0])(scope, receive, send)
            return
        came, refused = 0, False

        async def counted() -> Message:
            nonlocal came
            message = await receive()
            came += len(message.get("body", b""))
            if came > LARGEST_BODY:
                raise TooLarge  # whatever is made of it further in, the answer is the one below
            return message

        async def guarded(message: Message) -> None:
            nonlocal refused
            if came > LARGEST_BODY:
                if not refused:
                    refused = True
                    await JSONResponse({"detail": TOO_LARGE}, 413)(scope, receive, send)
                return
            if message["type"] == "http.response.start":
                message["headers"] = [
                    *message["headers"],
                    (b"x-content-type-options", b"nosniff"),
                    (b"x-frame-options", b"DENY"),
                    (b"referrer-policy", b"no-referrer"),
                    (
                        b"content-security-policy",
                        (
                            b"default-src 'self'; img-src 'self' data: blob:; style-src 'self'"
                            b" 'unsafe-inline'; frame-src blob:; frame-ancestors 'none'"
                        ),
                    ),
                ]
            await send(message)

        try:
            await self.app(scope, counted, guarded)
        except TooLarge:
            await guarded({"type": "http.response.start"})

    def _refusal(self, scope: Scope, headers: Headers) -> tuple[int, str] | None:
        """Why a request is not let through, if it is not."""
        if headers.get("host", "") not in self.hosts:
            return 403, "this address is not Venzo's own"
        origin = headers.get("origin")
        if origin is not None and not self._own(origin):
            return 403, "another page may not use this server"
        if headers.get("sec-fetch-site") in ("cross-site", "same-site") and (
            scope["method"] not in SAFE or scope["path"].startswith("/api")
        ):
            return 403, "another page may not use this server"
        if len(scope["path"]) > LONGEST_PATH or "\0" in scope["path"]:
            return 414, f"an address of {len(scope['path']):,} characters is none of Venzo's"
        length = headers.get("content-length", "0")
        if not length.isdecimal() or len(length) > 18:
            return 400, "the length of the request is not a number"
        return (413, TOO_LARGE) if int(length) > LARGEST_BODY else None

    def _own(self, origin: str) -> bool:
        try:
            return urlsplit(origin).netloc in self.hosts
        except ValueError:  # no address at all
            return False


TOO_LARGE = f"over {LARGEST_BODY // 1024**2} MB at once; drop fewer files"
