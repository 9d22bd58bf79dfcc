"""A host who brings a recording of two voices to a draft, by pointer and keys alone.

What the host does is charged: 1.2 s for an action, and every second that is listened to. What the
machine does meanwhile (words, measuring, the file) is not attention, and is not charged.
"""

import re
from dataclasses import dataclass, field
from pathlib import Path

from playwright.sync_api import Locator, expect

from tests.serving import Server
from tests.waiting import at_rest, eventually
from tests.web.test_tasks import Hand

ACTION_S = 1.2


@dataclass
class Attention:
    """What it took of the host, and the episode that came of it."""

    hand: Hand
    listened_s: float = 0.0
    episode: int = 0
    steps: dict[str, int] = field(default_factory=dict)

    @property
    def seconds(self) -> float:
        return ACTION_S * self.hand.actions + self.listened_s

    def listen(self, seconds: float) -> None:
        """Hear what plays."""
        self.listened_s += seconds
        self.hand.page.wait_for_timeout(1000 * seconds)

    def noted(self, step: str) -> None:
        """How many actions the last step took."""
        self.steps[step] = self.hand.actions - sum(self.steps.values())


_MOST_TABS = 600


class KeysOnly(Hand):
    """A host without a pointer: what is to be pressed is gone to by Tab, and pressed."""

    def click(self, what: Locator, **_options: object) -> None:
        self._go_to(what)
        if not what.evaluate("element => element.matches('input, textarea')"):
            self.key("Enter")

    def choose(self, what: Locator, value: str) -> None:
        self._go_to(what)
        self.key("Home")
        for _ in range(20):
            if what.input_value() == value:
                return
            self.key("ArrowDown")
        raise AssertionError(f"{value} is not among them")

    def _go_to(self, what: Locator) -> None:
        expect(what).to_be_enabled()
        for _ in range(_MOST_TABS):
            if what.evaluate("element => element === document.activeElement"):
                return
            self.page.keyboard.press("Tab")
        raise AssertionError(f"no Tab leads to {what}")


def released(
    hand: Hand, server: Server, recording: Path, pages: Path, *, splices: int
) -> Attention:
    """From an empty shelf of episodes to a draft; ``splices``: how many of them are heard. Which
    button is next is read from the line at the head of each stage, as somebody new would."""
    found, page = Attention(hand), hand.page
    click, next_step = found.hand.click, page.get_by_test_id("next-step")
    page.goto("/")
    click(page.get_by_role("button", name="New episode"))
    click(page.get_by_role("button", name="Create"))
    with page.expect_file_chooser() as chooser:
        click(page.get_by_role("button", name="Add a recording").first)
    found.hand.actions += 1  # the file is chosen in the system's own window
    chooser.value.set_files(recording)
    found.noted("a new episode, and its recording")
    found.episode = int(re.findall(r"\d+", page.url.split("/episodes/")[1])[0])

    # Its sounds go where the setup has them.
    click(page.get_by_role("button", name=re.compile(r"^Fill (these|it)")))
    found.noted("its opening music")
    server.wait_all(seconds=3600)
    expect(next_step).to_contain_text("Go through")
    click(next_step)
    click(page.get_by_role("button", name="Tidy closely"))
    click(page.get_by_role("dialog").get_by_role("button", name="Tidy closely"))
    _undone(server, found.episode, "Tidied closely")
    at_rest(page)
    found.noted("tidied")
    for _ in range(splices):
        found.hand.key(".")
        found.hand.key("j")
        found.listen(3.0)
    found.noted("splices heard")

    click(page.get_by_role("link", name="Loudness", exact=True))
    even = page.get_by_role("button", name="Even out all sections")
    _measured(server, found.episode)
    expect(even).to_be_enabled()
    voices = page.get_by_role("button", name="Even out voices")
    if voices.count():
        click(voices)
        _undone(server, found.episode, "Evened out voices")
        _measured(server, found.episode)
        expect(even).to_be_enabled()
    click(even)
    _undone(server, found.episode, r"Evened out \d+ section")
    found.noted("evened out")

    expect(next_step).to_contain_text("Make the file")
    click(next_step)
    click(page.get_by_role("button", name="Make the file", exact=True))
    expect(page.get_by_test_id("report")).to_be_visible(timeout=3_600_000)
    click(page.get_by_role("button", name="Play the file").first)
    found.listen(5.0)
    click(page.get_by_role("button", name="Pause the file").first)
    found.noted("the file")

    expect(next_step).to_contain_text("Hand it over")
    click(next_step)
    click(page.get_by_role("button", name="Add a destination"))
    hand.choose(page.get_by_label("How", exact=True), "site")
    for label, text in (
        ("Name", "Our own pages"),
        ("Path", str(pages)),
        ("Address it is served under", "https://slowcrossing.example/"),
        ("What the show is", "Small island ferries."),
    ):
        click(page.get_by_label(label, exact=True))
        found.hand.type(text)
    click(page.get_by_role("button", name="Keep it"))
    click(page.get_by_role("button", name="Hand over as a draft"))
    row = page.get_by_test_id("handed-over").first
    expect(row).to_have_attribute("data-state", "draft")
    found.noted("handed over as a draft")
    return found


def _undone(server: Server, episode: int, name: str) -> None:
    """Wait until undo would take back what has this name."""
    eventually(lambda: re.match(name, server.episode(episode)["undo"] or ""))


def _measured(server: Server, episode: int) -> None:
    """Wait until its loudness is known as it stands now."""

    def known() -> bool:
        where = {"revision": server.episode(episode)["revision"]}
        address = f"/api/episodes/{episode}/levels"
        return bool(server.client.get(address, params=where).json()["measured"])

    eventually(known)
