// The server had no place for a calculation: the page asks again by itself, in a while, as long as nobody changed it.
const BUSY = 503;
const USUAL_S = 2;

document.addEventListener("htmx:responseError", (event) => {
  const { xhr, elt } = event.detail;
  if (xhr.status !== BUSY) return;
  const after = Number(xhr.getResponseHeader("Retry-After")) || USUAL_S;
  setTimeout(() => { if (elt.isConnected) htmx.trigger(elt, "again"); }, 1000 * after * (1 + Math.random()));
});
