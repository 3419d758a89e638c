// Unsaved work on the bench. An answer to a question older than the last key would put old numbers back into fields
// that were typed in since: it is dropped, the next is on its way. A stage added or moved is never dropped.
const NO_EDIT = ["probe", "cursor", "cut-search"];
let edits = 0;

export function markEdited() {
  edits += 1;
  markUnsaved();
}

function markUnsaved() {
  document.body.dataset.unsaved = "yes";
}

export function markSaved() {
  delete document.body.dataset.unsaved;
}

// An answer on its way is older than what is done now.
export function outdateAnswers() {
  edits += 1;
}

for (const kind of ["input", "change"]) {
  document.addEventListener(kind, (event) => {
    if (event.target.closest("#bench") && !NO_EDIT.includes(event.target.id)) markEdited();
  }, true);
}

document.addEventListener("htmx:beforeRequest", (event) => {
  event.detail.xhr.edits = edits;
  event.detail.xhr.isAct = "do" in event.detail.requestConfig.parameters;
});
document.addEventListener("htmx:beforeSwap", (event) => {
  const { xhr, target } = event.detail;
  if (target.id === "bench" && !xhr.isAct && xhr.edits !== edits) event.detail.shouldSwap = false;
});

function readMark() {
  if (document.querySelector("#bench[data-changed]")) markUnsaved();
}

document.addEventListener("DOMContentLoaded", readMark);
document.addEventListener("htmx:afterSwap", readMark);
document.addEventListener("submit", (event) => { if (!event.defaultPrevented) markSaved(); });
window.addEventListener("beforeunload", (event) => {
  if (document.body.dataset.unsaved && document.getElementById("bench")) event.preventDefault();
});
