// Taps are written down on the device before they are sent, and sent again until the server has answered: neither bad
// Wi-Fi, a reload nor an empty battery loses one, and the token of each keeps it from counting twice.
"use strict";

const RETRY_MS = 3000;
const ANSWER_WITHIN_MS = 10000;
const RESULT_STAYS_MS = 60000;

const taps = { db: null, rows: [], results: [], isSending: false, isReady: false };

function openTaps() {
  return new Promise((resolve, reject) => {
    const asked = indexedDB.open("ember-taps", 1);
    asked.onupgradeneeded = () => asked.result.createObjectStore("taps", { keyPath: "id", autoIncrement: true });
    asked.onsuccess = () => resolve(asked.result);
    asked.onerror = () => reject(asked.error);
  });
}

function inStore(mode, work) {
  return new Promise((resolve, reject) => {
    const change = taps.db.transaction("taps", mode, { durability: "strict" });
    const asked = work(change.objectStore("taps"));
    change.oncomplete = () => resolve(asked.result);
    change.onerror = change.onabort = () => reject(change.error);
  });
}

// A tap: where it goes, what it says, the kitchen's time, who tapped, and its words for the screen.
function tapOf(config, element) {
  const body = new URLSearchParams();
  const fields = config.formData ?? new FormData(element.closest("form"));
  for (const [name, value] of fields) if (name !== "csrfmiddlewaretoken" && typeof value === "string") body.append(name, value);
  const hand = element.closest("article, .steps, .pan-page, .lane");
  const heading = hand?.querySelector("h3, .steps-verb, .pan-verb, .lane-name")?.textContent.trim().replace(/\s+/g, " ") ?? "";
  const button = config.triggeringEvent?.submitter ?? null;
  const said = button?.textContent.trim().replace(/\s+/g, " ") ?? "";
  return { url: config.path, body: body.toString(), at: Math.round(kitchenNow()), person: document.body.dataset.person ?? "", words: heading ? `${heading}${said && said !== "Done" ? `: ${said}` : ""}` : said };
}

function keep(tap) {
  taps.rows.push(tap);
  if (!taps.db) return Promise.resolve();
  tap.kept = inStore("readwrite", (store) => store.add({ ...tap, isWaiting: undefined, kept: undefined })).then((id) => { tap.id = id; });
  return tap.kept;
}

async function drop(tap) {
  taps.rows = taps.rows.filter((each) => each !== tap);
  await tap.kept; // an answer may be quicker than the store
  if (taps.db && tap.id !== undefined) await inStore("readwrite", (store) => store.delete(tap.id));
}

const waiting = () => taps.rows.filter((tap) => tap.isWaiting && tap.person === document.body.dataset.person);

const isTap = (detail) => detail.requestConfig.verb === "post" && detail.requestConfig.elt.closest("#board");

document.addEventListener("htmx:beforeRequest", (event) => {
  const { requestConfig: config, xhr } = event.detail;
  if (!isTap(event.detail) || !taps.isReady) return;
  const tap = tapOf(config, config.elt);
  if (waiting().length) { // in order: not before what waits
    event.preventDefault();
    tap.isWaiting = true;
    keep(tap).then(sendWaiting);
    goOn(tap);
    show();
    return;
  }
  keep(tap);
  xhr.addEventListener("loadend", () => answered(xhr, tap)); // the form may be gone from the page by then
});

function answered(xhr, tap) {
  if (xhr.status > 0 && xhr.status !== 401 && xhr.status !== 403 && xhr.status < 500) {
    drop(tap);
    return;
  }
  tap.isWaiting = true;
  goOn(tap);
  show();
}

async function sendWaiting() {
  if (taps.isSending || !waiting().length) return;
  taps.isSending = true;
  const send = async () => {
    for (let tap = waiting()[0]; tap; tap = waiting()[0]) if (!await sendOne(tap)) return;
  };
  try {
    if (navigator.locks) await navigator.locks.request("ember-taps", send); // one tab at a time
    else await send();
  } finally {
    taps.isSending = false;
    show();
  }
  if (!waiting().length && window.htmx) htmx.trigger(document.body, "wake");
}

// One kept tap; false where it has to wait longer.
async function sendOne(tap) {
  let answer;
  try {
    answer = await fetch(tap.url, {
      method: "POST", redirect: "manual", signal: AbortSignal.timeout(ANSWER_WITHIN_MS), body: tap.body,
      headers: { "Content-Type": "application/x-www-form-urlencoded", "X-CSRFToken": tokenOfNow() ?? "", "X-Kept-Tap": String(tap.at) },
    });
  } catch {
    return false;
  }
  if (answer.status === 401 || answer.status === 403 || answer.status >= 500 || answer.type === "opaqueredirect") return false;
  let became = { result: "refused", why: "the answer could not be read" };
  try {
    became = await answer.json();
  } catch { /* told as refused */ }
  await drop(tap);
  taps.results.push({ ...tap, ...became, at: tap.at, doneAt: became.at, until: Date.now() + RESULT_STAYS_MS });
  heardAt = Date.now();
  return true;
}

const clockOf = (at) => (formatter ? formatter.format(at) : new Date(at).toTimeString().slice(0, 5));

function wordsOf(row) {
  if (row.result === "already") return `already done by ${row.by} at ${row.doneAt}`;
  if (row.result === "refused") return `refused: ${row.why}`;
  return row.result === "done" ? "done" : "waiting to send";
}

// What waits and what became of the last, over the board.
function show() {
  const board = document.getElementById("board");
  let list = document.getElementById("taps");
  const rows = [...waiting(), ...taps.results];
  const others = taps.rows.filter((tap) => tap.isWaiting && tap.person !== document.body.dataset.person).length;
  if (!board || (!rows.length && !others)) { list?.remove(); return; }
  if (!list) {
    list = document.createElement("section");
    list.id = "taps";
    list.className = "taps";
    list.setAttribute("role", "status");
    board.before(list);
  }
  list.replaceChildren();
  for (const row of rows) {
    const line = document.createElement("p");
    line.className = `tap tap-${row.result ?? "waiting"}`;
    const [time, what] = [document.createElement("b"), document.createElement("span")];
    time.textContent = clockOf(row.at);
    what.textContent = ` ${row.words}: ${wordsOf(row)}`;
    line.append(time, what);
    list.append(line);
  }
  if (others) {
    const line = document.createElement("p");
    line.className = "tap tap-waiting";
    line.textContent = `${others} tapped by somebody else: sent when they sign in here.`;
    list.append(line);
  }
  if (!window.isSecureContext && waiting().length) {
    const line = document.createElement("p");
    line.className = "tap tap-note";
    line.textContent = "Reload-proof offline mode needs HTTPS.";
    list.append(line);
  }
  if (taps.results.length) {
    const close = document.createElement("button");
    close.type = "button";
    close.className = "act-quiet";
    close.textContent = "Close";
    close.addEventListener("click", () => { taps.results = []; show(); });
    list.append(close);
  }
}

setInterval(() => {
  const before = taps.results.length;
  taps.results = taps.results.filter((row) => row.result === "refused" || Date.now() < row.until);
  if (before !== taps.results.length) show();
  sendWaiting();
}, RETRY_MS);
window.addEventListener("online", sendWaiting);
document.addEventListener("signed-in", sendWaiting);
document.addEventListener("htmx:afterSwap", show);

(async () => {
  try {
    taps.db = await openTaps();
    taps.rows = await inStore("readonly", (store) => store.getAll());
  } catch { /* a browser without a store: this page alone keeps them */ }
  for (const tap of taps.rows) tap.isWaiting = true; // nobody has seen an answer to these
  taps.isReady = true;
  for (const tap of waiting()) goOn(tap);
  show();
  sendWaiting();
})();
