"""Pairs of quick edits in a browser whose answers come late and out of order."""

import random
from dataclasses import dataclass

from playwright.sync_api import Page

from tests.serving import Server
from tests.waiting import eventually

_LATE = """([seed, most_ms]) => {
  let state = seed;
  const chance = () => {
    state = (state * 1664525 + 1013904223) % 4294967296;
    return state / 4294967296;
  };
  const fetched = window.fetch.bind(window);
  window.fetch = async (...asked) => {
    const answer = await fetched(...asked);
    await new Promise((done) => setTimeout(done, chance() * most_ms));
    return answer;
  };
  window.pointedAt = [];
  addEventListener("pointerdown", ({ target }) => {
    window.pointedAt.push(target.closest("[data-word]")?.dataset.word);
  }, true);
}"""

_WORDS = """() => [...document.querySelectorAll('[data-word]')].map((word) => {
  const box = word.getBoundingClientRect();
  const x = box.x + box.width / 2, y = box.y + box.height / 2;
  const there = document.elementFromPoint(x, y);
  return { id: word.dataset.word, x, y, free: there === word };
}).filter(({ free }) => free)"""

Words = set[tuple[str, int]]


@dataclass(frozen=True, slots=True)
class Pair:
    """Words that two quick cuts should remove, the words that they removed, and whether one of the
    cuts was reported as refused."""

    selected: Words
    removed: Words
    refused: bool

    @property
    def is_right(self) -> bool:
        """Whether no other word was removed, and every missing removal was reported."""
        return self.removed == self.selected or (self.refused and self.removed < self.selected)


def answer_late(page: Page, seed: int, most_ms: int) -> None:
    """Delay every answer to this page at random, by at most ``most_ms``; note what is clicked."""
    page.evaluate(_LATE, [seed, most_ms])


def words_of(server: Server) -> tuple[int, Words]:
    """The current revision, and every word of the episode by take and number."""
    view = server.episode(1)
    answer = server.client.get(
        "/api/episodes/1/page",
        params={"revision": view["revision"], "start": 0, "frames": view["frames"]},
    )
    return view["revision"], {(word["take"], word["word"]) for word in answer.json()["words"]}


def cut_two(page: Page, server: Server, chance: random.Random) -> Pair:
    """Select and cut two words in quick succession."""
    revision, before = words_of(server)
    shown = f"[data-revision='{revision}'] [data-word]"
    page.locator(shown).first.wait_for()
    selected: Words = set()
    pauses = [0, 30, 200, 800]
    for _ in range(2):
        words = page.evaluate(_WORDS)
        if not words:
            break
        word = chance.choice(words)
        page.mouse.click(word["x"], word["y"])
        # What was under the pointer at that moment: the screen may have changed since.
        name = page.evaluate("() => window.pointedAt.at(-1)")
        page.wait_for_timeout(chance.choice(pauses))
        page.keyboard.press("Delete")
        if name:
            take, _, number = name.rpartition(":")
            selected.add((take, int(number)))
        page.wait_for_timeout(chance.choice(pauses))
    dialog = page.get_by_role("alertdialog")

    def settled() -> tuple[bool, Words] | None:
        if page.locator("[data-changing]").count():
            return None
        now, after = words_of(server)
        refused = dialog.count() > 0
        done = page.locator(f"[data-revision='{now}']").count() > 0
        return (refused, before - after) if done and now != revision else None

    refused, removed = eventually(settled, page)
    if refused:
        dialog.get_by_role("button", name="Done").click()
        dialog.wait_for(state="detached")
    return Pair(selected, removed, refused)
