// Offers the browser's own time zone where none was chosen yet.
const zones = document.querySelector("select[data-own-zone]");
const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
if (zones && zones.value === "UTC" && [...zones.options].some((option) => option.value === own)) zones.value = own;
