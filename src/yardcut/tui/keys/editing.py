"""Editing keys of a text field carried out at once.

Textual lets such a key climb from the field to the app before it is carried out; letters are put in at once. Who types
both quickly would have them swapped.
"""

from __future__ import annotations

import inspect

from textual import actions
from textual.widget import Widget


def edit_now(field: Widget, key: str) -> bool:
    """Carry out what a key is bound to in a text field; ``False`` where it is bound to nothing that can be done now."""
    for binding in field._bindings.key_to_bindings.get(key, ()):
        _, name, arguments = actions.parse(binding.action)
        action = getattr(field, f"action_{name}", None)
        if action is not None and not inspect.iscoroutinefunction(action):
            action(*arguments)
            return True
    return False
