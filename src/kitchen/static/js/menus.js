// Menus that open when a button is held ("Done" for late, skip and undo), and close when something else is touched.
const HOLD_MS = 600;
let holding = null;

document.addEventListener("pointerdown", (event) => {
  const button = event.target.closest("[data-hold]");
  if (!button) return;
  holding = setTimeout(() => {
    document.getElementById(button.dataset.hold).open = true;
    button.dataset.held = "yes";
  }, HOLD_MS);
});
for (const kind of ["pointerup", "pointercancel"]) document.addEventListener(kind, () => clearTimeout(holding));

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-hold]");
  if (button?.dataset.held) { // the hold opened the menu: it is no tap
    delete button.dataset.held;
    event.preventDefault();
    event.stopImmediatePropagation();
  }
  const shut = event.target.closest("[data-shut]");
  if (shut) shut.closest("details").open = false;
  for (const menu of document.querySelectorAll("[data-menu][open]")) {
    if (!menu.contains(event.target) && !button) menu.open = false;
  }
}, true);
