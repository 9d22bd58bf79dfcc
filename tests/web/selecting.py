"""What is done with what is selected, at the selection."""

from playwright.sync_api import Page


def more(page: Page, action: str) -> None:
    """An action that is not among the first, by its button."""
    page.get_by_test_id("selection-bar").get_by_role("button", name="More").click()
    found = page.get_by_test_id("more-to-do").get_by_role("button", name=action, exact=True)
    found.click()
