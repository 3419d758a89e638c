"""Bad Wi-Fi: a way to the server that can be cut and mended, without the server noticing."""

from __future__ import annotations

import contextlib
import select
import socket
import threading
from types import TracebackType

CHUNK = 65536


class Wifi:
    """Passes everything on to a server on this machine while it is up; a context manager."""

    def __init__(self, server_url: str) -> None:
        host, _, port = server_url.removeprefix("http://").partition(":")
        self.server = (host, int(port))
        self.is_up = True
        self._open: set[socket.socket] = set()
        self._guard = threading.Lock()
        self._listener = socket.create_server(("127.0.0.1", 0))
        self.url = f"http://127.0.0.1:{self._listener.getsockname()[1]}"
        threading.Thread(target=self._accept, daemon=True).start()

    def __enter__(self) -> Wifi:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.cut()
        self._listener.close()

    def cut(self) -> None:
        """No way through, for what is under way as for what comes."""
        self.is_up = False
        with self._guard:
            for end in self._open:
                with contextlib.suppress(OSError):
                    end.shutdown(socket.SHUT_RDWR)

    def mend(self) -> None:
        """Through again."""
        self.is_up = True

    def _accept(self) -> None:
        while True:
            try:
                tablet, _ = self._listener.accept()
            except OSError:  # closed
                return
            threading.Thread(target=self._carry, args=(tablet,), daemon=True).start()

    def _carry(self, tablet: socket.socket) -> None:
        with tablet:
            if not self.is_up:
                return
            try:
                with socket.create_connection(self.server) as server:
                    self._both_ways(tablet, server)
            except OSError:
                return

    def _both_ways(self, tablet: socket.socket, server: socket.socket) -> None:
        other = {tablet: server, server: tablet}
        with self._guard:
            self._open |= {tablet, server}
        try:
            while self.is_up:
                ready, _, _ = select.select([tablet, server], [], [], 0.2)
                for end in ready:
                    data = end.recv(CHUNK)
                    if not data:
                        return
                    other[end].sendall(data)
        finally:
            with self._guard:
                self._open -= {tablet, server}
