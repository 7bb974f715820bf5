"""Only this machine's own pages may talk to the server: Host and Origin are checked on every request."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Receive, Scope, Send

LARGEST_BODY = 128 * 1024 * 1024


class Guard:
    """Refuses requests for other hosts (DNS rebinding), from other origins, and bodies over 128 MB; adds safe headers."""

    def __init__(self, app: ASGIApp, address: str):
        self.app = app
        port = address.rsplit(":", 1)[1] if ":" in address else ""
        self.hosts = {f"{h}:{port}" if port else h for h in ("127.0.0.1", "localhost", "[::1]")} | {address}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        origin = headers.get("origin")
        refusal = None
        if headers.get("host", "") not in self.hosts:
            refusal = (403, "this address is not Venzo's own")
        elif origin is not None and urlsplit(origin).netloc not in self.hosts:
            refusal = (403, "another page may not use this server")
        elif int(headers.get("content-length") or 0) > LARGEST_BODY:
            refusal = (413, f"over {LARGEST_BODY // 1024**2} MB at once; drop fewer files")
        if refusal:
            await JSONResponse({"detail": refusal[1]}, refusal[0])(scope, receive, send)
            return

        async def guarded(message):
            if message["type"] == "http.response.start":
                message["headers"] = [
                    *message["headers"],
                    (b"x-content-type-options", b"nosniff"),
                    (b"x-frame-options", b"DENY"),
                    (b"referrer-policy", b"no-referrer"),
                    (b"content-security-policy", b"default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'"),
                ]
            await send(message)

        await self.app(scope, receive, guarded)
