"""One document in one window: opened, saved, kept against crashes; and the line that tells about it."""

from __future__ import annotations

import contextlib
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from types import ModuleType
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QMimeData, QProcess, Qt, QTimer
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QHBoxLayout, QMainWindow, QPushButton, QWidget

from jaunty_copper.desktop.shell.disk import Disk
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.settings import Settings
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.work.trouble import each
from jaunty_copper.language import say, say_many
from jaunty_copper.plan.autosave import Autosave, left_behind
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import PlanError, Stamp, load_with_stamp, look_again
from jaunty_copper.plan.model import Plan

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.menus import Menus

AUTOSAVE_AFTER_MS = 1500
LOOK_AT_DISK_MS = 2000
NOT_SAVED = say("Not saved")


class DocumentWindow(QMainWindow):
    """A window with a plan in it; what is shown of the plan is for the class that builds on this."""

    notice: QWidget
    menus: Menus

    def __init__(self, document: Document, settings: Settings | None = None, autosave: Autosave | None = None) -> None:
        super().__init__()
        self.setAcceptDrops(True)
        self.settings = settings or Settings()
        self.autosave = autosave or Autosave()
        self.document = document
        self.disk = Disk()
        self._autosave_timer = QTimer(self, singleShot=True, interval=AUTOSAVE_AFTER_MS)
        self._autosave_timer.timeout.connect(self._keep_autosave)
        self._disk_timer = QTimer(self, interval=LOOK_AT_DISK_MS)
        self._disk_timer.timeout.connect(self.look_at_disk)

    def _adopt(self, document: Document) -> None:
        """Show another document."""
        raise NotImplementedError

    def replace_document(self, document: Document) -> None:
        """Leave the open document for another."""
        self.document.close()
        self.disk.ask(self.autosave.clear)
        self._autosave_timer.stop()
        for signal in (self.document.changed, self.document.history):
            with contextlib.suppress(RuntimeError):
                signal.disconnect()
        self._adopt(document)

    def _keep_autosave(self) -> None:
        if not self.document.unsaved:
            self.disk.ask(self.autosave.clear)
            return
        self.disk.ask(self._keeping(), self._autosave_kept)

    def _keeping(self) -> Callable[[], str | None]:
        """What writes the work down as it is now."""
        path = str(self.document.path) if self.document.path else None
        return partial(_kept, self.autosave, self.document.plan, path, self.document.stamp)

    def keep_soon(self) -> None:
        """Write unsaved work down in a moment: however fast edits come, the first of them waits no longer."""
        if not self._autosave_timer.isActive():
            self._autosave_timer.start()

    def own_error(self, sentence: str) -> None:
        """Keep the work at once, then say what went wrong."""
        each(self._keep_autosave, partial(self.show_notice, sentence))

    def _autosave_kept(self, why_not: str | None) -> None:
        if why_not is not None:
            self.show_notice(say("Autosave does not work here: {why_not}. Save by hand.", why_not=why_not))

    # Files

    def new(self) -> None:
        """Begin a new plan: asks five things, and draws its core."""
        from jaunty_copper.desktop.shell import beginning

        if self.may_leave():
            beginning.open_for(self).begun.connect(lambda plan: self.replace_document(Document(plan)))

    def open(self, path: Path | None = None) -> bool:
        """Open a plan; a broken one leaves the open plan alone and says what is wrong where."""
        if path is None:
            path = dialogs().file_to_open(self, self.document.path.parent if self.document.path else Path.home())
            if path is None:
                return False
        if not self._load(path):
            return False
        self.settings.used(path)
        return True

    def another(self) -> None:
        """Open another window: a program of its own, so that nothing that happens to one reaches the other."""
        program = Path(sys.argv[0])
        words = [str(program)] if program.name == "jaunty-copper" else [sys.executable, "-m", "jaunty_copper"]
        if not QProcess.startDetached(words[0], [*words[1:], "new"])[0]:
            self.show_notice(say("Another window cannot be started."))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take a plan's file that is dragged in."""
        if dropped(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Open a plan's file that is dropped, once the other program has its answer."""
        path = dropped(event.mimeData())
        if path is not None:
            event.acceptProposedAction()
            QTimer.singleShot(0, self, partial(self.open, path))

    def _load(self, path: Path) -> bool:
        """Read a plan off the window's thread, and show it in place of the open one."""
        from jaunty_copper.desktop.work.patience import Cancelled, waited

        try:
            plan, stamp = waited(self, say("Reading {path}…", path=path.name), partial(load_with_stamp, path))
        except Cancelled:
            return False
        except PlanError as error:
            self.show_broken(error)
            return False
        if not self.may_leave():
            return False
        self.replace_document(Document(plan, path, stamp))
        return True

    def show_broken(self, error: PlanError) -> None:
        """Say what is wrong with a file, and where."""
        self._box = dialogs().broken_file(self, error)

    def open_example(self, name: str) -> None:
        """Open an example that ships with the program."""
        if self.may_leave():
            self.replace_document(Document(example(name)))

    def save(self) -> bool:
        """Save to the plan's file, or ask for one."""
        if self.document.path is None:
            return self.save_as()
        if self.document.changed_outside and not dialogs().may_overwrite(self, self.document.path):
            return False
        return self._save(self.document.path)

    def save_as(self, path: Path | None = None) -> bool:
        """Save to another file."""
        if path is None:
            path = dialogs().file_to_save(self, self.document.plan, self.document.path)
            if path is None:
                return False
        return self._save(path)

    def _save(self, path: Path) -> bool:
        try:
            self.document.save(path)
        except (OSError, PlanError) as error:
            why = error.details[0] if isinstance(error, PlanError) else error.strerror
            self.show_notice(
                say(
                    "{not_saved} to {path}: {why}. The file there is as it was.",
                    not_saved=NOT_SAVED,
                    path=path,
                    why=why,
                )
            )
            return False
        if self._notice_text.text().startswith(NOT_SAVED):
            self.hide_notice()
        self.settings.used(path)
        self.disk.ask(self.autosave.clear)
        self._autosave_timer.stop()
        self.statusBar().showMessage(say("Saved {path}", path=path.name), 3000)
        return True

    def may_leave(self) -> bool:
        """Whether the open plan may be left: saved, or given up on purpose."""
        if not self.document.unsaved:
            return True
        answer = dialogs().save_changes(self, self.document.plan)
        return self.save() if answer == "save" else bool(answer == "discard")

    def fill_recent(self) -> None:
        """List the files that were open before."""
        self.menus.recent.clear()
        for name in self.settings.recent:
            action = self.menus.recent.addAction(name)
            action.setEnabled(Path(name).exists())
            action.triggered.connect(partial(self.open, Path(name)))
        if not self.settings.recent:
            self.menus.recent.addAction(say("nothing yet")).setEnabled(False)

    def look_at_disk(self) -> None:
        """Notice that another program changed the file."""
        d = self.document
        if d.path is not None and d.seen is not None:
            self.disk.ask(partial(look_again, d.path, d.seen), partial(self._seen_on_disk, d, d.seen))

    def _seen_on_disk(self, d: Document, known: Stamp, found: tuple[Stamp, PlanError | None] | None) -> None:
        if found is None or d is not self.document or d.seen is not known or d.path is None:
            return
        now, error = found
        d.noticed(now)
        if now == d.stamp:
            return
        if error is not None:
            self.show_notice(
                say(
                    "{path} was changed by another program and is no longer a valid plan: {details}",
                    path=d.path.name,
                    details=error.details[0],
                )
                if not error.missing
                else say("{path} is no longer on disk. Save to write it again.", path=d.path.name)
            )
            return
        words = say("Your changes here are not saved.") if d.unsaved else ""
        self.show_notice(
            say("{path} was changed by another program. {words}", path=d.path.name, words=words),
            (say("Load it"), partial(self._reload, d.path)),
        )

    def _reload(self, path: Path) -> None:
        self._load(path)

    def offer_recovery(self) -> None:
        """Offer what a crash left behind."""
        found = left_behind()
        if not found:
            return
        newest = found[0]
        when = time.strftime("%d %B, %H:%M", time.localtime(newest.when))
        name = newest.plan.title or say("a plan without a name")
        older = len(found) - 1
        more = say_many(" ({count} older one waits too.)", " ({count} older ones wait too.)", older) if older else ""

        def recover() -> None:
            if not self.may_leave():
                return
            document = Document(newest.plan, Path(newest.path) if newest.path else None, newest.stamp)
            self.replace_document(document)
            document.never_saved()
            keep = self._keeping()

            def moved() -> str | None:
                """Discard the old autosave only where the new one is on disk."""
                why_not = keep()
                if why_not is None:
                    newest.discard()
                return why_not

            self.disk.ask(moved, self._autosave_kept)

        self.show_notice(
            say('Unsaved work on {name} of {when} was left by a window that did not close properly.{more}', name=name, when=when, more=more),
            (say("Recover it"), recover), (say("Discard it"), newest.discard),
        )  # fmt: skip

    # Notices

    def _notice_bar(self) -> QWidget:
        """The line for notices, hidden until there is one."""
        made = QWidget()
        made.setObjectName("notice")
        made.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._notice_row = QHBoxLayout(made)
        self._notice_row.setContentsMargins(10, 6, 10, 6)
        self._notice_text = Label()
        self._notice_text.setWordWrap(True)
        self._notice_row.addWidget(self._notice_text, 1)
        self._notice_buttons: list[QPushButton] = []
        made.hide()
        return made

    def show_notice(self, text: str, *answers: tuple[str, Callable[[], object]]) -> None:
        """Show one line above the map until it is answered or closed."""
        self._notice_text.setText(text)
        for button in self._notice_buttons:
            button.deleteLater()
        self._notice_buttons = []
        for label, slot in (*answers, (say("Close"), lambda: None)):
            button = QPushButton(label)
            button.clicked.connect(self.hide_notice)
            button.clicked.connect(lambda _=False, s=slot: s())
            self._notice_row.addWidget(button)
            self._notice_buttons.append(button)
        self.notice.show()

    def hide_notice(self) -> None:
        """Take the notice away."""
        self.notice.hide()

    # Closing

    def close_document(self) -> None:
        """Let go of the document and of what keeps it."""
        self._disk_timer.stop()
        self._autosave_timer.stop()
        self.disk.close()
        self.autosave.close()
        self.document.close()

    def changeEvent(self, event: QEvent) -> None:
        """Look at the disk when the window comes back."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow():
            self.look_at_disk()


def dropped(data: QMimeData) -> Path | None:
    """The one file on this machine that is dragged; None where it is something else."""
    files = [url.toLocalFile() for url in data.urls() if url.isLocalFile()]
    return Path(files[0]) if len(files) == 1 and len(data.urls()) == 1 else None


def dialogs() -> ModuleType:
    """The dialogs, loaded with the first of them."""
    from jaunty_copper.desktop.shell import dialogs

    return dialogs


def _kept(autosave: Autosave, plan: Plan, path: str | None, stamp: Stamp | None) -> str | None:
    """Write unsaved work down; why not, where the disk refuses."""
    try:
        autosave.keep(plan, path, stamp)
    except OSError as error:
        return error.strerror or str(error)
    except PlanError as error:
        return error.details[0]
    return None
