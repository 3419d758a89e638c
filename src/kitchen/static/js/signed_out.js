// A session that ended: the way in is laid over the page, which stays as it is. A refusal of something that was asked
// before the last sign-in says nothing any more.
let signedInAt = 0;

document.addEventListener("htmx:beforeRequest", (event) => {
  event.detail.xhr.askedAt = performance.now();
});

document.addEventListener("htmx:beforeSwap", (event) => {
  const { xhr, target } = event.detail;
  const door = document.getElementById("signed-out");
  if (door?.contains(target) && xhr.status >= 400 && xhr.status !== 422) {
    door.querySelector("[data-locked]").hidden = false;
  } else if (xhr.status === 401 && !door && xhr.askedAt > signedInAt) {
    const dialog = document.createElement("dialog");
    dialog.id = "signed-out";
    dialog.className = "signed-out";
    dialog.setAttribute("aria-labelledby", "signed-out-title");
    dialog.innerHTML = xhr.response;
    dialog.addEventListener("cancel", (cancelled) => cancelled.preventDefault());
    document.body.append(dialog);
    htmx.process(dialog);
    dialog.showModal();
  }
});

document.addEventListener("signed-in", (event) => {
  signedInAt = performance.now();
  document.getElementById("signed-out")?.remove();
  if (String(event.detail.person) !== document.body.dataset.person) window.location.reload();
  else htmx.trigger(document.body, "wake");
});
