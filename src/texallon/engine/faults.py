"""What becomes of a window whose work fails in a way that nobody foresaw: reported with a number, tried again, set aside."""

import logging
import secrets
import time
from dataclasses import dataclass

from texallon.messages.to_page import FaultMessage

PAUSES = (1.0, 4.0)
"""Seconds before the next try, after each failure in a row; after the last it is set aside."""

_log = logging.getLogger("texallon.engine")


@dataclass
class Faults:
    """The failures in a row of one window, in one state of it: a part that works does not make up for one that fails."""

    session: str
    shot_id: int
    in_a_row: int = 0
    epoch: int = -1
    """Of the window when it failed last: another change is another try."""

    def failed(self, epoch: int, error: BaseException) -> tuple[FaultMessage, float | None]:
        """Take down a failure; gives what to tell the page, and the moment (monotonic clock) to try again, none where it is set aside."""
        self.in_a_row = self.in_a_row + 1 if epoch == self.epoch else 1
        self.epoch = epoch
        number = secrets.token_hex(4)
        _log.error(
            "fault %s in a window of shot %d (%s)", number, self.shot_id, self.session,
            exc_info=(type(error), error, error.__traceback__),
        )  # fmt: skip
        pause = PAUSES[self.in_a_row - 1] if self.in_a_row <= len(PAUSES) else None
        message = FaultMessage(session=self.session, shot=self.shot_id, number=number, again=pause)
        return message, None if pause is None else time.monotonic() + pause
