// Taps are written down on the device before they are sent, and sent again until the server has answered: neither bad
// Wi-Fi, a reload nor an empty battery loses one, and the token of each keeps it from counting twice.
import { kitchenNow } from "./clock.js";
import { csrfToken } from "./csrf.js";
import { markHeard } from "./lost.js";
import { goOn } from "./offline_steps.js";
import { showTaps } from "./tap_list.js";
import * as store from "./tap_store.js";

const RETRY_MS = 3000;
const ANSWER_WITHIN_MS = 10000;
const RESULT_STAYS_MS = 60000;

let queue = []; // every tap that was not answered yet
let results = [];
let isSending = false;
let isReady = false;

const isMine = (tap) => tap.person === document.body.dataset.person;
const waiting = () => queue.filter((tap) => tap.isWaiting && isMine(tap));

function show() {
  const others = queue.filter((tap) => tap.isWaiting && !isMine(tap)).length;
  showTaps({ waiting: waiting(), results, others, close: () => { results = []; show(); } });
}

// Writing down ----------------------------------------------------------------------------------------------------------

const wordsOf = (element) => element?.textContent.trim().replace(/\s+/g, " ") ?? "";

// A tap: where it goes, what it says, the kitchen's time, who tapped, and its words for the screen.
function tapOf(config, element) {
  const body = new URLSearchParams();
  for (const [name, value] of config.formData ?? new FormData(element.closest("form"))) {
    if (name !== "csrfmiddlewaretoken" && typeof value === "string") body.append(name, value);
  }
  const card = element.closest("article, .steps, .pan-page, .lane");
  const heading = wordsOf(card?.querySelector("h3, .steps-verb, .pan-verb, .lane-name"));
  const button = wordsOf(config.triggeringEvent?.submitter);
  const answer = button && button !== "Done" ? `: ${button}` : "";
  return {
    url: config.path, body: body.toString(), at: Math.round(kitchenNow()), person: document.body.dataset.person ?? "",
    words: heading ? heading + answer : button,
  };
}

function setQueue(taps) {
  queue = taps;
  document.body.dataset.unanswered = String(queue.length);
}

function keep(tap) {
  const { url, body, at, person, words } = tap;
  setQueue([...queue, tap]);
  if (!store.isOpen()) return Promise.resolve();
  tap.kept = store.saveTap({ url, body, at, person, words }).then((id) => { tap.id = id; });
  return tap.kept;
}

async function drop(tap) {
  setQueue(queue.filter((each) => each !== tap));
  await tap.kept; // an answer may be quicker than the disk
  if (store.isOpen() && tap.id !== undefined) await store.deleteTap(tap.id);
}

function hold(tap) {
  tap.isWaiting = true;
  goOn(tap);
  show();
}

const isTap = ({ requestConfig }) => requestConfig.verb === "post" && requestConfig.elt.closest("#board");
// Signed out, or the server is not itself: the tap is sent again.
const isNoAnswer = (status) => status === 0 || status === 401 || status === 403 || status >= 500;

document.addEventListener("htmx:beforeRequest", (event) => {
  const { requestConfig: config, xhr } = event.detail;
  if (!isTap(event.detail) || !isReady) return;
  const tap = tapOf(config, config.elt);
  if (waiting().length) { // in order: not before what waits
    event.preventDefault();
    keep(tap).then(sendWaiting);
    hold(tap);
    return;
  }
  keep(tap);
  xhr.addEventListener("loadend", () => { // the form may be gone from the page by then
    if (isNoAnswer(xhr.status)) hold(tap);
    else drop(tap);
  });
});

// Sending ---------------------------------------------------------------------------------------------------------------

async function sendWaiting() {
  if (isSending || !waiting().length) return;
  isSending = true;
  const send = async () => {
    while (waiting().length) if (!await sendOne(waiting()[0])) return;
  };
  try {
    if (navigator.locks) await navigator.locks.request("ember-taps", send); // one tab at a time
    else await send();
  } finally {
    isSending = false;
    show();
  }
  if (!waiting().length) htmx.trigger(document.body, "wake");
}

// One kept tap; false where it has to wait longer.
async function sendOne(tap) {
  let answer;
  try {
    answer = await fetch(tap.url, {
      method: "POST", redirect: "manual", signal: AbortSignal.timeout(ANSWER_WITHIN_MS), body: tap.body,
      headers: {
        "Content-Type": "application/x-www-form-urlencoded", "X-CSRFToken": csrfToken() ?? "",
        "X-Kept-Tap": String(tap.at),
      },
    });
  } catch {
    return false;
  }
  if (isNoAnswer(answer.status) || answer.type === "opaqueredirect") return false;
  let became = { result: "refused", why: "the answer could not be read" };
  try {
    became = await answer.json();
  } catch { /* shown as refused */ }
  await drop(tap);
  results.push({ ...tap, ...became, at: tap.at, doneAt: became.at, until: Date.now() + RESULT_STAYS_MS });
  markHeard();
  return true;
}

setInterval(() => {
  const before = results.length;
  results = results.filter((tap) => tap.result === "refused" || Date.now() < tap.until);
  if (before !== results.length) show();
  sendWaiting();
}, RETRY_MS);
window.addEventListener("online", sendWaiting);
document.addEventListener("signed-in", sendWaiting);
document.addEventListener("htmx:afterSwap", show);

(async () => {
  let saved = [];
  try {
    await store.openStore();
    saved = await store.savedTaps();
  } catch { /* a browser without a disk of its own: this page alone keeps them */ }
  for (const tap of saved) tap.isWaiting = true; // nobody has seen an answer to these
  setQueue(saved);
  isReady = true;
  for (const tap of waiting()) goOn(tap);
  show();
  sendWaiting();
})();
