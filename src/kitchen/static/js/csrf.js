// A page from before the last sign-in still sends: its forms take the token of now.
export const csrfToken = () => document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1];

document.addEventListener("htmx:configRequest", (event) => {
  const token = csrfToken();
  if (!token || event.detail.verb === "get") return;
  event.detail.headers["X-CSRFToken"] = token;
  event.detail.parameters.csrfmiddlewaretoken = token;
});

document.addEventListener("submit", (event) => {
  const field = event.target.querySelector("input[name=csrfmiddlewaretoken]");
  const token = csrfToken();
  if (field && token) field.value = token;
}, true);
