"""The demo shop served by the real command, and a browser page that loads nothing from elsewhere."""

import io
import json
import re
import urllib.request
import zipfile
from contextlib import contextmanager

import pytest
from playwright.sync_api import expect, sync_playwright
from pypdf import PdfReader

from tests.support.server import Server

PATIENCE = 60_000
"""ms that a test waits for what must come: two servers and two browsers may share two cores."""
TRIED = "3"
"""s of computing that go into trying the remedies of one plan, on the cores that the page shares."""
expect.set_options(timeout=PATIENCE)
ARGS = [
    "--no-sandbox",
    "--disable-quic",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@contextmanager
def serve_folder(folder):
    """The address of a folder of data while it is served."""
    server = Server(folder)
    server.up()
    try:
        yield server.url
    finally:
        server.down()


@pytest.fixture(scope="module")
def served(demo_folder, tmp_path_factory):
    """The demo shop served by the real command, restartable."""
    import shutil

    folder = tmp_path_factory.mktemp("ui") / "shop"
    shutil.copytree(demo_folder, folder)
    server = Server(folder, VENZO_REMEDY_SECONDS=TRIED)
    server.up()
    yield server.url, server.restart
    server.down()


@pytest.fixture(scope="session")
def browser():
    """One browser for all tests; every page gets a profile of its own."""
    with sync_playwright() as p:
        browser = p.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
        yield browser
        browser.close()


@pytest.fixture
def page(browser):
    """A page of a fresh profile that must raise no script error and load nothing from elsewhere."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    page = context.new_page()
    page.set_default_timeout(PATIENCE)
    faults = []

    def asked(request):
        if "127.0.0.1" not in request.url and not request.url.startswith(("data:", "blob:")):
            faults.append(f"asked {request.url}")

    page.on("pageerror", lambda e: faults.append(str(e)))
    page.on("request", asked)
    yield page
    context.close()
    assert faults == [], "no script error, nothing loaded from elsewhere"


def released(page):
    """Release what stands ready, and the archive of it as it is downloaded."""
    page.get_by_role("button", name=re.compile(r"^Release \d+ programs")).click()
    line = page.get_by_role("listitem", name="Release 1")
    line.wait_for()
    with page.expect_download() as file:
        line.get_by_role("button", name="Download", exact=True).click()
    return zipfile.ZipFile(io.BytesIO(file.value.path().read_bytes()))


def programs_in(archive):
    """Programs of a release by name, and what its setup sheets say."""
    texts = {n.rsplit("/", 1)[-1]: archive.read(n).decode() for n in archive.namelist() if n.endswith(".nc")}
    papers = [
        PdfReader(io.BytesIO(archive.read(n))) for n in archive.namelist() if n.endswith("setup-sheet.pdf")
    ]
    said = " ".join(" ".join(p.extract_text() for r in papers for p in r.pages).split())
    return texts, said


def api(url, path):
    return json.load(urllib.request.urlopen(url + "/api" + path, timeout=30))
