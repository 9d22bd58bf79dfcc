"""Errors offer what would put them right, by one press."""

import json
import re

import pytest
from playwright.sync_api import Page, expect

from airtrim.jobs.lifecycle import MOST_ATTEMPTS
from airtrim.store.store import Store
from tests.serving import Server

FULL = {"AIRTRIM_KEEP_FREE_BYTES": str(10**18)}


@pytest.mark.parametrize("environment", [FULL], indirect=True)
def test_a_full_disk_leads_to_what_takes_it(page: Page, server: Server) -> None:
    page.goto("/episodes/1/release?step=files")
    page.get_by_role("button", name="Make the file").click()
    expect(page.get_by_text("The disk is nearly full. Make room")).to_be_visible()
    page.get_by_role("button", name="See disk space").click()
    expect(page.get_by_test_id("space")).to_contain_text("in all episodes; 0 kB are free")
    # Shown by the address: it comes again with it, and is folded up like any other.
    page.reload()
    expect(page.get_by_test_id("space")).to_contain_text("in all episodes")
    page.get_by_text("Disk space").click()
    expect(page.get_by_text("in all episodes")).to_have_count(0)


def test_work_that_was_cut_off_is_run_again(page: Page, server: Server) -> None:
    page.goto("/episodes/1/edit")
    expect(page.get_by_text("44 snags", exact=True)).to_be_visible()
    params = json.dumps({"revision": server.episode(1)["revision"]})
    page.goto("about:blank")  # what is asked for while nobody answers is an error there
    server.kill()
    store = Store(server.data)
    job = store.add_job("measure", 1, params).id
    store.update_job(job, state="running", attempts=MOST_ATTEMPTS)
    store.close()
    server.start()
    page.goto("/episodes/1/edit")
    told = page.get_by_role("alert").filter(has_text="Air Trim was stopped while this ran")
    told.get_by_role("button", name="Run it again").first.click()
    server.wait(job, "done")
    expect(told).to_have_count(0)


def test_what_is_damaged_leads_to_edit_and_not_from_there(page: Page, server: Server) -> None:
    for name in ("sound", "original"):
        (server.data / "takes" / "guest" / name).unlink()
    page.goto("/episodes/1/release?step=files")
    page.get_by_role("button", name="Make the file").click()
    missing = page.get_by_role("status").filter(has_text="missing from the disk")
    missing.get_by_role("button", name="Go to Edit").click()
    expect(page).to_have_url(re.compile("/episodes/1/edit$"))
    # The message went with the press; another one here leads nowhere.
    ask = {"revision": server.episode(1)["revision"]}
    job = server.client.post("/api/episodes/1/exports", json=ask).json()["id"]
    server.wait(job, "failed")
    expect(missing.first).to_be_visible()
    expect(page.get_by_role("button", name="Go to Edit")).to_have_count(0)
