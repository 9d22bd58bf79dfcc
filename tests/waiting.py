"""Waiting for a state, never for seconds: a busy machine takes its time."""

import time
from collections.abc import Callable
from typing import TypeVar

from playwright.sync_api import Page

T = TypeVar("T")

MOST_SECONDS = 600
"""Past this it is not slow, it is wrong; beside four busy loops the longest tests take minutes."""


def eventually(look: Callable[[], T], page: Page | None = None) -> T:
    """What ``look`` gives once that is true of it. With a ``page``, its events go on meanwhile."""
    end = time.monotonic() + MOST_SECONDS
    while True:
        found = look()
        if found:
            return found
        assert time.monotonic() < end, f"still {found!r}"
        if page:
            page.wait_for_timeout(50)
        else:
            time.sleep(0.05)


_AT_REST = """() => new Promise((done) => {
  let before = '';
  let same = 0;
  const look = () => {
    // What ends is waited for; a spinner does not.
    const moving = document.getAnimations().filter(
      (a) => a.playState === 'running' && a.effect.getComputedTiming().endTime !== Infinity);
    const scrolled = [...document.querySelectorAll('*')].map((e) => e.scrollTop).filter(Boolean);
    const now = `${document.body.innerHTML.length} ${scrolled}`;
    const empty = document.querySelector('[data-line]:not([data-ready])');
    same = now === before && !empty && !moving.length ? same + 1 : 0;
    before = now;
    if (same >= 12) done(true);
    else requestAnimationFrame(look);
  };
  look();
})"""


def at_rest(page: Page) -> None:
    """Until every line of the Page has its sound and words, and what is on the screen has been the
    same, where it is, for a dozen pictures."""
    page.evaluate(_AT_REST)
