"""How fast the Bench answers in a browser: stepping one frame and jumping anywhere; or a pair, stepping both.

    ./start &  python -m benchmarks.player http://127.0.0.1:8750 RUN [--beside OTHER]

Prints median and 95th percentile in milliseconds, from the key or the press until the asked frame is drawn.
"""

from __future__ import annotations

import argparse
import statistics

from playwright.sync_api import sync_playwright

ARGS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
]
#: Ask for a frame and wait in the page itself, so that the driver's own delays do not count.
ASK = """async ([kind, count]) => {
  const canvas = document.querySelector('canvas');
  const slider = document.querySelector('[role=slider]');
  const box = slider.getBoundingClientRect();
  const out = [];
  for (let k = 0; k < count; k++) {
    await new Promise((r) => setTimeout(r, 40));
    const before = canvas.dataset.frame;
    const started = performance.now();
    const drawn = new Promise((done) => {
      const watch = new MutationObserver(() => { watch.disconnect(); done(); });
      watch.observe(canvas, { attributes: true, attributeFilter: ['data-frame'] });
      setTimeout(() => { watch.disconnect(); done(); }, 2000);
    });
    if (kind === 'step') document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true }));
    else {
      const x = box.left + box.width * (0.05 + 0.9 * Math.random());
      for (const type of ['pointerdown', 'pointerup'])
        slider.dispatchEvent(new PointerEvent(type, { clientX: x, clientY: box.top + 8, bubbles: true, pointerId: 1, button: 0 }));
    }
    await drawn;
    if (canvas.dataset.frame !== before) out.push(performance.now() - started);
  }
  return out;
}"""


#: Step a pair and wait until both halves show the frames that stand on them.
BOTH = """async ([back, count]) => {
  const halves = ['A', 'B'].map((n) => document.querySelector(`[data-testid=half-${n}]`));
  const slider = document.querySelector('input[aria-label="Frame of A"]');
  const out = [];
  for (let k = 0; k < count; k++) {
    await new Promise((r) => setTimeout(r, 60));
    const wanted = String(Number(slider.value) + (back ? -1 : 1));
    const shown = () => halves[0].dataset.frame === wanted
      && halves.every((c) => c.dataset.frame === c.getAttribute('aria-label').split('frame ')[1]);
    const started = performance.now();
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key: back ? 'ArrowLeft' : 'ArrowRight', bubbles: true }));
    while (!shown() && performance.now() - started < 2000)
      await new Promise((r) => { const m = new MessageChannel(); m.port1.onmessage = r; m.port2.postMessage(0); });
    out.push(performance.now() - started);
  }
  return out;
}"""


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("base")
    parser.add_argument("run")
    parser.add_argument("--beside", help="another run, or the same: step both as a pair")
    parser.add_argument("--name", default="ottilie")
    parser.add_argument("--password", default="snowlight-26")
    args = parser.parse_args()
    with sync_playwright() as p:
        browser = p.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.goto(f"{args.base}/login")
        page.get_by_label("Name").fill(args.name)
        page.get_by_label("Password").fill(args.password)
        page.get_by_role("button", name="Log in").click()
        page.get_by_role("heading", name="Desk").wait_for()
        if args.beside:
            page.goto(f"{args.base}/pair?a={args.run}&b={args.beside}")
            for half in "AB":
                page.locator(f"[data-testid=half-{half}][data-frame]").wait_for()
            for back in (False, True):
                said("back" if back else "forward", 120, page.evaluate(BOTH, [back, 120]))
            browser.close()
            return
        page.goto(f"{args.base}/runs/{args.run}")
        page.locator("canvas[data-frame='0']").wait_for()
        page.evaluate("() => document.querySelector('main').click()")
        for kind, count in (("step", 200), ("jump", 150)):
            said(kind, count, page.evaluate(ASK, [kind, count]))
        browser.close()


def said(kind: str, count: int, times: list[float]) -> None:
    """Print how long steps of a kind took, milliseconds."""
    took = sorted(times)
    if not took:
        print(f"{kind}: no frame was drawn")
        return
    p95 = took[int(0.95 * len(took))]
    print(
        f"{kind}: {len(took)} of {count}, median {statistics.median(took):.0f} ms, p95 {p95:.0f} ms"
    )


if __name__ == "__main__":
    main()
