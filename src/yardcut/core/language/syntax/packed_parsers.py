"""A parser of the grammar library as bytes: as it stands, so that it is there in a fifth of the time its tables take.

The library saves tables and builds a parser of them anew (0.14 s for the lines of a cut). A pickle of the parser itself
needs two things said: modules, and the objects of the library that are known by being themselves. Where another
version of the library has more of that, the bytes are the library's own.
"""

from __future__ import annotations

import io
import pickle
import sys
from importlib import import_module
from types import ModuleType
from typing import Any

from lark import Lark

_AS_IT_STANDS, _AS_TABLES = b"P", b"T"
_LIBRARY = "lark"


class _Pickler(pickle.Pickler):
    def __init__(self, file: io.BytesIO) -> None:
        super().__init__(file, pickle.HIGHEST_PROTOCOL)
        self._single = {
            id(each): (module, name)
            for module in list(sys.modules.values())
            if isinstance(module, ModuleType) and module.__name__.partition(".")[0] == _LIBRARY
            for name, each in vars(module).items()
            if type(each).__module__.partition(".")[0] == _LIBRARY
        }

    def reducer_override(self, obj: Any) -> Any:
        """Write a module and what it has one of by their names."""
        if isinstance(obj, ModuleType):
            return import_module, (obj.__name__,)
        return (getattr, self._single[id(obj)]) if id(obj) in self._single else NotImplemented


def _begins(parser: Lark) -> set[str]:
    """Return the terminals that a text may begin with."""
    begins: set[str] = parser.parse_interactive("").accepts()  # type: ignore[no-untyped-call] # the library's
    return begins


def packed(parser: Lark) -> bytes:
    """Return a parser as bytes for :func:`unpacked`, which trusts them."""
    file = io.BytesIO()
    try:
        _Pickler(file).dump(parser)
        again = pickle.loads(file.getvalue())  # written a line above
        if _begins(again) == _begins(parser):
            return _AS_IT_STANDS + file.getvalue()
    except Exception:  # whatever a library's objects say to being pickled, it has a way of its own
        pass
    tables = io.BytesIO()
    parser.save(tables)
    return _AS_TABLES + tables.getvalue()


def unpacked(content: bytes) -> Lark:
    """Return the parser of bytes that :func:`packed` gave. They can hold code."""
    if content.startswith(_AS_IT_STANDS):
        parser: Lark = pickle.loads(memoryview(content)[1:])  # nobody but the user can have written them
        return parser
    loaded: Lark = Lark.load(io.BytesIO(content[1:]))
    return loaded
