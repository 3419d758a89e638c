// A desk asks again at every change.
// A button that leaves the page posts the form; every other one only asks again.
document.addEventListener("htmx:confirm", (event) => {
  const submitter = event.detail.triggeringEvent?.submitter;
  if (submitter?.dataset.leaves === undefined) return;
  event.preventDefault();
  const form = document.getElementById("desk");
  form.method = "post";
  form.action = submitter.formAction;
  form.submit();
});

// What is half typed over the number is no time yet: the bench asks when the field is left, or at enter, and then the
// clock counts and no word.
document.addEventListener("input", (event) => {
  if (event.target.id === "egg-minutes") event.stopPropagation();
}, true);
document.addEventListener("htmx:configRequest", (event) => {
  const asked = event.detail.triggeringEvent;
  const byEnter = asked?.type === "submit" && !asked.submitter?.name && document.activeElement?.id === "egg-minutes";
  if (asked?.target?.id === "egg-minutes" || byEnter) event.detail.parameters.target = "clock";
});

// What moves the clock takes longer than the picture: it follows, and what was there stays until then.
let following = null;
function follow() {
  const moves = document.getElementById("egg-moves");
  if (!moves) return;
  moves.classList.add("stale");
  clearTimeout(following);
  following = setTimeout(() => htmx.trigger("#egg-moves", "refresh"), 250);
}
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id === "egg-moves") event.target.classList.remove("stale");
  else if (document.getElementById("desk")) follow();
});
