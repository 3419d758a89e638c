// A fragment that draws itself anew every few seconds swallows no tap: while a finger or a key is down, and until its
// click is out, the answer waits. And an answer asked for before something was done never covers what was done since.
const CLICK_WITHIN_MS = 400; // a click follows the finger's release within this, also on a busy tablet
const LONGEST_HELD_MS = 8000; // a key or finger whose release was never heard must not stop the board

const held = { since: 0, waiting: null, drawAnew: false, clickDue: 0 };
let asked = 0;
let doneAt = 0;

const isHeld = () => held.since > 0 && Date.now() - held.since < LONGEST_HELD_MS;
export const drawsItself = (element) => element.getAttribute("hx-trigger")?.includes("every ") ?? false;

function hold() {
  clearTimeout(held.clickDue); // of the press before
  held.since = Date.now();
}

function release() {
  if (!held.since) return;
  held.since = 0;
  const { waiting } = held;
  held.waiting = null;
  if (waiting && waiting.target.isConnected) {
    const how = { swapStyle: waiting.style, swapDelay: 0, settleDelay: 0 };
    htmx.swap(waiting.target, waiting.html, how, { contextElement: waiting.target });
  }
  if (held.drawAnew) htmx.trigger(document.body, "wake");
  held.drawAnew = false;
}

for (const kind of ["pointerdown", "keydown"]) document.addEventListener(kind, hold, true);
for (const kind of ["pointerup", "pointercancel", "keyup"]) {
  document.addEventListener(kind, () => {
    clearTimeout(held.clickDue);
    held.clickDue = setTimeout(release, kind === "pointerup" ? CLICK_WITHIN_MS : 0);
  }, true);
}
document.addEventListener("click", () => { // once the request of the click has gone out
  clearTimeout(held.clickDue);
  held.clickDue = setTimeout(release, 0);
});
window.addEventListener("blur", release);

document.addEventListener("htmx:beforeRequest", (event) => {
  asked += 1;
  event.detail.xhr.asked = asked;
});
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.requestConfig.verb !== "get") doneAt = asked; // what was asked until now may not know of it yet
});

document.addEventListener("htmx:beforeSwap", (event) => {
  const { xhr, target, requestConfig } = event.detail;
  if (!event.detail.shouldSwap || !drawsItself(target)) return;
  const isLook = requestConfig.verb === "get";
  if (isLook && xhr.asked <= doneAt) {
    event.detail.shouldSwap = false;
    return;
  }
  if (!isHeld()) return;
  event.detail.shouldSwap = false;
  if (isLook) held.drawAnew = true;
  else held.waiting = { target, html: event.detail.serverResponse, style: target.getAttribute("hx-swap") };
});
