"""What drives the interpreter: whoever answers its requests, in a browser or without one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from lantern.core.elements.facts import Facts
from lantern.core.engine import requests as ask


class Driver(Protocol):
    """Answers each request as its class says.

    Each may raise StageLost, PageGone and whatever ends the play.
    """

    def now(self, request: ask.Now) -> float:
        """Answer Now."""

    def look_up(self, request: ask.Lookup) -> ask.Seen:
        """Answer Lookup."""

    def aim(self, request: ask.Aim) -> ask.Aimed:
        """Answer Aim."""

    def open(self, request: ask.Open) -> ask.Opened:
        """Answer Open."""

    def press(self, request: ask.Mouse) -> str:
        """Answer Mouse."""

    def point_at(self, request: ask.PointAt) -> None:
        """Answer PointAt."""

    def drag(self, request: ask.Drag) -> None:
        """Answer Drag."""

    def go(self, request: ask.History) -> None:
        """Answer History."""

    def give_files(self, request: ask.GiveFiles) -> str:
        """Answer GiveFiles."""

    def downloads(self, request: ask.Downloads) -> Sequence[ask.Download]:
        """Answer Downloads."""

    def keep_download(self, request: ask.KeepDownload) -> ask.KeptFile:
        """Answer KeepDownload."""

    def type_text(self, request: ask.TypeText) -> None:
        """Answer TypeText."""

    def type_letters(self, request: ask.Letters) -> None:
        """Answer Letters."""

    def scroll_on(self, request: ask.ScrollOn) -> bool:
        """Answer ScrollOn."""

    def choose(self, request: ask.Choose) -> ask.Chosen:
        """Answer Choose."""

    def press_key(self, request: ask.PressKey) -> None:
        """Answer PressKey."""

    def read(self, request: ask.Read) -> str | None:
        """Answer Read."""

    def answer_dialog(self, request: ask.AnswerDialog) -> str | None:
        """Answer AnswerDialog."""

    def windows(self, request: ask.Windows) -> Sequence[ask.Window]:
        """Answer Windows."""

    def switch_to(self, request: ask.SwitchTo) -> None:
        """Answer SwitchTo."""

    def close_window(self, request: ask.CloseWindow) -> None:
        """Answer CloseWindow."""

    def wait(self, request: ask.Wait) -> None:
        """Answer Wait."""

    def nearby(self, request: ask.Nearby) -> Sequence[Facts]:
        """Answer Nearby."""

    def quiet(self, request: ask.Quiet) -> bool:
        """Answer Quiet."""

    def outstanding(self, request: ask.Outstanding) -> Sequence[str]:
        """Answer Outstanding."""

    def run_code(self, request: ask.RunCode) -> ask.Ran:
        """Answer RunCode."""

    def run_page_script(self, request: ask.PageScript) -> ask.Ran:
        """Answer PageScript."""

    def picture(self, request: ask.Picture) -> str:
        """Answer Picture."""

    def step_starts(self, request: ask.StepStarts) -> ask.Onward:
        """Answer StepStarts."""

    def step_fails(self, request: ask.StepFails) -> ask.Onward:
        """Answer StepFails."""

    def step_ends(self, request: ask.StepEnds) -> None:
        """Answer StepEnds."""

    def stop_everything(self, request: ask.StopEverything) -> None:
        """Answer StopEverything."""
