// What was typed and not sent yet stays, as does what was sent and refused, with the reason, until it has been read.
import { drawsItself } from "./held_swaps.js";

const NOT_TYPED = ["hidden", "checkbox", "radio"];
const REASON_STAYS_MS = 10000;
let reason = { html: "", until: 0 };

document.addEventListener("htmx:beforeSwap", (event) => {
  const { target, requestConfig, xhr } = event.detail;
  if (!drawsItself(target)) return;
  const isPost = requestConfig.verb !== "get";
  xhr.typed = [...target.querySelectorAll("input[id], textarea[id]")]
    .filter((field) => !NOT_TYPED.includes(field.type) && field.value !== field.defaultValue)
    .map((field) => ({ id: field.id, value: field.value, wasSent: isPost && requestConfig.elt.contains(field) }));
});

document.addEventListener("htmx:afterSwap", (event) => {
  const { requestConfig, xhr } = event.detail;
  if (!xhr?.typed) return;
  const isLook = requestConfig.verb === "get";
  const refused = document.querySelector(".problem-wide");
  if (!isLook) reason = { html: refused?.outerHTML ?? "", until: Date.now() + REASON_STAYS_MS };
  for (const { id, value, wasSent } of xhr.typed) {
    const field = document.getElementById(id);
    if (field && field.value === field.defaultValue && (!wasSent || refused)) field.value = value;
  }
  if (isLook && reason.html && Date.now() < reason.until && !refused) {
    const fragment = document.getElementById(event.detail.target.id);
    fragment?.insertAdjacentHTML("afterbegin", reason.html.replace(' role="alert"', ""));
  }
});
