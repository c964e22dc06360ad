"""From pointer to paint, and from the address to a drawn plan, in headless Chromium with software rendering."""

from __future__ import annotations

import gzip
import re
import statistics
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, sync_playwright

from .measure import Figures, machine_milliseconds
from .server import FLAGS, ROOT, demo_server

# resolves with the milliseconds from the next pointer move to the end of the frame in which the changed attribute is painted
WATCH = """([selector, attribute]) => {
  const target = document.querySelector(selector)
  window.__taken = new Promise((resolve) => {
    let began = 0
    addEventListener('pointermove', () => { if (!began) began = performance.now() }, { capture: true, once: true })
    new MutationObserver((_, o) => { if (!began) return; o.disconnect(); requestAnimationFrame(() => {
        const c = new MessageChannel(); c.port1.onmessage = () => resolve(performance.now() - began); c.port2.postMessage(0) }) })
      .observe(target, { attributes: true, attributeFilter: [attribute] })
  })
}"""

# the same to the end of the frame after the answer has told a road that hangs on the dragged one
FOLLOW = """(id) => {
  window.__followed = new Promise((resolve) => {
    let began = 0
    addEventListener('pointermove', () => { if (!began) began = performance.now() }, { capture: true, once: true })
    window.__fetch ??= window.fetch
    window.fetch = async (...asked) => {
      const answer = await window.__fetch(...asked)
      if (!String(asked[0].url ?? asked[0]).endsWith('/trial')) return answer
      const [mine, theirs] = answer.body.tee()
      const read = async () => {
        let text = ''
        for (const reader = mine.pipeThrough(new TextDecoderStream()).getReader(); ;) {
          const { done, value } = await reader.read()
          if (done) return
          text += value
          if (text.includes(`{"dependent":${id},`)) return requestAnimationFrame(() => {
            const c = new MessageChannel(); c.port1.onmessage = () => resolve(performance.now() - began); c.port2.postMessage(0) })
        }
      }
      void read()
      return new Response(theirs, answer)
    }
  })
}"""

# a stamp that follows the pointer once the server has answered with next to nothing: what this machine takes for the way alone
STAMP = """() => {
  const stamp = document.createElement('div')
  stamp.id = 'stamp'
  stamp.style.cssText = 'position:fixed;left:600px;top:300px;width:8px;height:8px;background:red'
  document.body.append(stamp)
  let busy = false
  addEventListener('pointermove', async (e) => {
    if (busy) return
    busy = true
    await (await fetch('/api/session')).text()
    stamp.style.left = e.clientX + 'px'
    stamp.setAttribute('data-at', e.clientX + ',' + e.clientY)
    busy = false
  }, { capture: true })
}"""

# what the hand moves is painted ahead of what follows from it; these change with the whole: edges, section, volumes
WHOLE_PLAN, WHOLE_LONG = ("[data-test=plan-canvas]", "data-shape"), ("[data-test=long-canvas]", "data-shape")
JUNCTIONS = ("[data-test=plan-canvas]", "data-joined")  # counts the pictures of junctions as a drag would have them


def sign_in(page: Page, address: str) -> None:
    page.goto(address + "/sign-in")
    page.fill("[data-test=name]", "designer")
    page.fill("[data-test=password]", "orrowmere")
    page.press("[data-test=password]", "Enter")
    page.wait_for_selector("[data-test=project]")


def run(figures: Figures) -> None:
    figures.add("initial_scripts_gzipped", initial_scripts() / 1000, "kB")
    with demo_server() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        sign_in(page, address)
        project = page.locator("[data-test=project]").first.get_attribute("href")
        figures.add("first_screen", first_screen(browser, page, f"{address}{project}"), "s")
        page.goto(f"{address}{project}/levels")
        _add_drag(figures, "trial_pvi", lambda: drag(page, "pvi-3", "[data-test=design-line]", "d"))
        _add_drag(figures, "trial_pvi_whole", lambda: drag(page, "pvi-3", *WHOLE_LONG))
        page.goto(f"{address}{project}/levels")
        _add_drag(figures, "trial_follow", lambda: follow(page, "pvi-3"))
        page.goto(f"{address}{project}/levels")
        _add_drag(figures, "trial_pvi_junctions", lambda: drag(page, "pvi-3", *JUNCTIONS))
        page.goto(f"{address}{project}/line")
        page.click("[data-test=snapping]")  # a PI that stays on a vertex while the pointer moves on would be waited for
        _add_drag(figures, "trial_pi", lambda: drag(page, "pi-2", "[data-test=plan-canvas] .tangent", "points"))
        _add_drag(figures, "trial_pi_whole", lambda: drag(page, "pi-2", *WHOLE_PLAN))
        page.goto(f"{address}{project}/junctions")
        page.locator("button[data-test^=junction-]", has_text="Tarn Lane").first.click()
        page.wait_for_selector("[data-test^=corner-handle-].chosen")
        page.wait_for_timeout(2500)  # the finished ground, which a drag waits for no longer
        handle = page.locator("[data-test^=corner-handle-].chosen").get_attribute("data-test")
        _add_drag(
            figures, "trial_junction", lambda: drag(page, str(handle), ".return.chosen", "points", lambda i: (3 * (i % 7), 0))
        )
        browser.close()
    part_bench(figures)
    many_roads(figures)
    big_ground(figures)


def part_bench(figures: Figures) -> None:
    """A vertex of the trial ground under eight parts a side, with all eight thumbnails."""
    with demo_server("bench.eight_parts") as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        sign_in(page, address)
        project = page.locator("[data-test=project]").first.get_attribute("href")
        page.goto(f"{address}{project}/sections")
        page.select_option("[data-test=bench-subject]", label="Eight parts")
        page.click("[data-test=ground-hump]")
        _add_drag(figures, "bench_drag", lambda: drag(page, "vertex-2", "[data-test=bench-areas]", "data-cut"))
        browser.close()


def many_roads(figures: Figures) -> None:
    """A project of thirty roads tied to one another: from its address to a drawn plan with all of them, and to its long section."""
    with demo_server("bench.many_roads") as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        sign_in(page, address)
        link = page.locator("[data-test=project]", has_text="Thirty roads").get_attribute("href")
        figures.add("open_30_roads_s", first_screen(browser, page, f"{address}{link}"), "s")
        page.goto(f"{address}{link}/line")
        page.click("[data-test=snapping]")
        _add_drag(figures, "trial_pi_30_roads", lambda: drag(page, "pi-2", "[data-test=plan-canvas] .tangent", "points"))
        _add_drag(figures, "trial_pi_30_roads_whole", lambda: drag(page, "pi-2", *WHOLE_PLAN))
        page.goto(f"{address}{link}/line")
        _add_drag(figures, "empty_answer_30_roads", lambda: way_alone(page))
        browser.close()


def big_ground(figures: Figures) -> None:
    """The first picture of a million triangles with a cold server, and frames while 300 000 with contours are panned."""
    with demo_server("bench.big_ground") as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        sign_in(page, address)

        def opened(name: str) -> float:
            link = page.locator("[data-test=project]", has_text=name).get_attribute("href")
            began = time.perf_counter()
            page.goto(f"{address}{link}/ground")
            page.wait_for_selector("[data-drawn=true]", state="attached")
            return time.perf_counter() - began

        opened("Bench 300k")
        page.wait_for_load_state("networkidle")  # its findings are there
        page.wait_for_timeout(3000)
        figures.add("pan_300k_fps", pan(page), "frames/s")
        page.goto(address)
        page.wait_for_selector("[data-test=project]")
        link = page.locator("[data-test=project]", has_text="Bench 1M").get_attribute("href")
        figures.add("long_10k_ground_script", *long_script(page, f"{address}{link}/levels"))
        page.goto(address)
        page.wait_for_selector("[data-test=project]")
        figures.add("first_picture_1m_triangles", opened("Bench 1M"), "s")
        browser.close()


def long_script(page: Page, address: str) -> tuple[float, str]:
    """Script time (ms) for each move of a PVI in a long section with more than 10 000 ground vertices: 30 frames a second leave 33."""
    page.goto(address)
    page.wait_for_selector("[data-test=pvi-3] rect", timeout=120_000)
    page.wait_for_timeout(3000)
    count = page.evaluate(
        """async () => {
          const project = await (await fetch('/api/projects/' + location.pathname.match(/[0-9]+/)[0])).json()
          return (await (await fetch(`/api/roads/${project.roads[0].id}/design`)).json()).ground.length
        }"""
    )
    assert count > 10_000, count
    session = page.context.new_cdp_session(page)
    session.send("Performance.enable")

    def script() -> float:
        metrics = session.send("Performance.getMetrics")["metrics"]
        return float(next(m["value"] for m in metrics if m["name"] == "ScriptDuration"))

    box = page.locator("[data-test=pvi-3] rect").bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 9)  # beyond what is still a click
    for i in range(5):
        page.evaluate(WATCH, ["[data-test=design-line]", "d"])
        page.mouse.move(x, y - 2 - i)
        page.evaluate("window.__taken")
    before, moves = script(), 40
    for i in range(moves):
        page.evaluate(WATCH, ["[data-test=design-line]", "d"])
        page.mouse.move(x, y - 8 - i % 9)
        page.evaluate("window.__taken")
    taken = 1000 * (script() - before) / moves
    page.keyboard.press("Escape")
    page.mouse.up()
    return taken, f"ms a move with {count} vertices"


def pan(page: Page) -> float:
    """Frames a second while the plan is dragged to and fro for five seconds; counted where they are painted."""
    page.locator("[data-test=plan-canvas]").hover()
    page.mouse.down(button="middle")
    page.evaluate(
        """() => { window.__frames = 0;
          const tick = () => { window.__frames++; requestAnimationFrame(tick) }; requestAnimationFrame(tick) }"""
    )
    began, i = time.perf_counter(), 0
    while time.perf_counter() - began < 5:
        page.mouse.move(640 + 200 * ((i % 60) / 30 - 1), 400 + 3 * (i % 40))
        i += 1
    frames = page.evaluate("window.__frames")
    taken = time.perf_counter() - began
    page.mouse.up(button="middle")
    return min(frames, i) / taken


def _add_drag(figures: Figures, name: str, take: Callable[[], tuple[float, float]]) -> None:
    before = machine_milliseconds()
    middle, p95 = take()
    figures.add(f"{name}_median", middle, "ms")
    figures.add(f"{name}_p95", p95, "ms")
    machine = (before + machine_milliseconds()) / 2
    figures.add(
        f"{name}_p95_machines", p95 / machine, "of the machine's fixed piece of work, the mean of right before and right after"
    )


def first_screen(browser: Any, signed_in: Page, address: str) -> float:
    """Middle of three openings with an empty cache, from the address to a drawn plan."""
    taken = []
    cookies = signed_in.context.cookies()
    for _ in range(3):
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        context.add_cookies(cookies)
        page = context.new_page()
        began = time.perf_counter()
        page.goto(address + "/levels")
        page.wait_for_selector("[data-drawn=true]", state="attached")
        page.wait_for_selector("[data-test=design-line]", state="attached")
        taken.append(time.perf_counter() - began)
        context.close()
    return statistics.median(taken)


def follow(page: Page, handle: str) -> tuple[float, float]:
    """Middle and 95th percentile of 60 moves of a PVI of the demo's main road until its slip road is shown as it follows, in ms."""
    grip = f"[data-test={handle}] rect"
    page.wait_for_selector(grip)
    page.wait_for_timeout(1500)
    slip = page.evaluate(
        """async () => (await (await fetch('/api/projects/' + location.pathname.match(/[0-9]+/)[0])).json())
          .roads.find((r) => r.name === 'Quarry slip').id"""
    )
    box = page.locator(grip).last.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 9, y + 12)
    taken = []
    for i in range(70):
        page.evaluate(FOLLOW, slip)
        page.mouse.move(x + 3 * (i % 4), y + 1 + i % 9)
        taken.append(page.evaluate("window.__followed"))
    page.keyboard.press("Escape")
    page.mouse.up()
    return statistics.median(taken[10:]), statistics.quantiles(taken[10:], n=20)[-1]


def drag(
    page: Page,
    handle: str,
    selector: str,
    attribute: str,
    way: Callable[[int], tuple[int, int]] = lambda i: (3 * (i % 4), 1 + i % 9),
) -> tuple[float, float]:
    """Middle and 95th percentile of 120 moves of a handle by ``way`` (px), each waited for, after 20 that warm up, in ms."""
    grip = f"[data-test={handle}] rect, rect[data-test={handle}], [data-test={handle}] circle:last-of-type"
    page.wait_for_selector(grip)
    page.wait_for_timeout(1500)
    box = page.locator(grip).last.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 9, y + 12)  # beyond what is still a click
    taken = []
    for i in range(140):
        page.evaluate(WATCH, [selector, attribute])
        page.mouse.move(x + way(i)[0], y + way(i)[1])
        taken.append(page.evaluate("window.__taken"))
    page.keyboard.press("Escape")
    page.mouse.up()
    return statistics.median(taken[20:]), statistics.quantiles(taken[20:], n=20)[-1]


def way_alone(page: Page) -> tuple[float, float]:
    """The same of 120 moves of the pointer until an answer without content is painted as a stamp of 8 px, in the same page."""
    page.wait_for_selector("[data-test=pi-2]")
    page.wait_for_timeout(1500)
    page.evaluate(STAMP)
    taken = []
    for i in range(140):
        page.evaluate(WATCH, ["#stamp", "data-at"])
        page.mouse.move(620 + 3 * (i % 4), 331 + i % 9)
        taken.append(page.evaluate("window.__taken"))
    return statistics.median(taken[20:]), statistics.quantiles(taken[20:], n=20)[-1]


def initial_scripts() -> int:
    """Gzipped bytes of the scripts that an opened project loads before anything is clicked: the entry and the workbench."""
    dist = ROOT / "web" / "dist"
    wanted = set(re.findall(r"assets/[\w.-]+\.js", (dist / "index.html").read_text()))
    wanted |= {f"assets/{p.name}" for p in dist.glob("assets/WorkbenchPage-*.js")}
    seen: set[str] = set()
    while wanted - seen:
        name = (wanted - seen).pop()
        seen.add(name)
        for other in re.findall(r"""(?:from|import)\s*["']\./([\w.-]+\.js)["']""", Path(dist / name).read_text()):
            wanted.add(f"assets/{other}")
    return sum(len(gzip.compress((dist / n).read_bytes())) for n in seen)
