"""Bytes kept up to a limit: those that were not used for longest make room."""

from __future__ import annotations

from collections import OrderedDict


class Kept:
    """Bytes by key, all together at most `limit`; what is larger than a quarter of that is not kept at all."""

    def __init__(self, limit: int) -> None:
        self.limit, self.size = limit, 0
        self._items: OrderedDict[str, bytes] = OrderedDict()

    def put(self, key: str, data: bytes) -> None:
        self.drop(key)
        if len(data) > self.limit // 4:
            return
        self._items[key] = data
        self.size += len(data)
        while self.size > self.limit:
            _, old = self._items.popitem(last=False)
            self.size -= len(old)

    def get(self, key: str) -> bytes:
        """Empty where there is nothing under that key."""
        if key not in self._items:
            return b""
        self._items.move_to_end(key)
        return self._items[key]

    def drop(self, key: str) -> None:
        old = self._items.pop(key, None)
        if old is not None:
            self.size -= len(old)

    def __len__(self) -> int:
        return len(self._items)
