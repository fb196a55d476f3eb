"""A file dragged in from another program: the side of a drag that a file manager has, by the protocol of the X server."""

import time

from Xlib import X
from Xlib.protocol import event

VERSION = 5
PATIENCE_S = 30.0


def drop_file(display, root, path, x, y):
    """Let go of a file over the window at a place of the screen; whether it was taken.

    By XDND, version 5: enter, position, the other side's status, drop, its answer; the file's name as a selection.
    """
    atom = display.intern_atom
    source = root.create_window(0, 0, 1, 1, 0, X.CopyFromParent)
    kind, selection = atom("text/uri-list"), atom("XdndSelection")
    source.set_selection_owner(selection, X.CurrentTime)
    target = _aware(display, root, x, y)

    def tell(name, *data):
        message = event.ClientMessage(
            window=target, client_type=atom(name), data=(32, [source.id, *data, *([0] * (4 - len(data)))])
        )
        target.send_event(message)
        display.flush()

    def told(name):
        """Wait for an answer; what is asked for meanwhile is given."""
        end = time.monotonic() + PATIENCE_S
        while time.monotonic() < end:
            if not display.pending_events():
                time.sleep(0.005)
                continue
            seen = display.next_event()
            if seen.type == X.SelectionRequest:
                seen.requestor.change_property(seen.property, kind, 8, f"{path.as_uri()}\r\n".encode())
                seen.requestor.send_event(
                    event.SelectionNotify(
                        time=seen.time, requestor=seen.requestor, selection=seen.selection, target=seen.target, property=seen.property
                    )
                )  # fmt: skip
                display.flush()
            elif seen.type == X.ClientMessage and seen.client_type == atom(name):
                return seen.data[1]
        raise AssertionError(f"no {name} within {PATIENCE_S:g} s")

    tell("XdndEnter", VERSION << 24, kind, 0, 0)
    tell("XdndPosition", 0, round(x) << 16 | round(y), X.CurrentTime, atom("XdndActionCopy"))
    taken = bool(told("XdndStatus")[1] & 1)
    if taken:
        tell("XdndDrop", 0, X.CurrentTime)
        taken = bool(told("XdndFinished")[1] & 1)
    else:
        tell("XdndLeave")
    source.destroy()
    display.flush()
    return taken


def _aware(display, root, x, y):
    """The window at a place that takes what is dropped."""
    window, aware = root, display.intern_atom("XdndAware")
    while True:
        below = window.translate_coords(root, round(x), round(y)).child
        if not below:
            raise AssertionError("nothing here takes what is dropped")
        if below.get_full_property(aware, X.AnyPropertyType) is not None:
            return below
        window = below
