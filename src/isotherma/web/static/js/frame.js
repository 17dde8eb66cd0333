/* The frame: what was opened stays open when its page is made anew; a menu shuts when one leaves it. */
const open = new Set();

document.addEventListener("htmx:beforeSwap", () => {
  open.clear();
  document.querySelectorAll("details[data-stays][open]").forEach((details) => open.add(details.id));
});
document.addEventListener("htmx:afterSwap", () => {
  open.forEach((id) => { const details = document.getElementById(id); if (details) details.open = true; });
});
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape") document.querySelectorAll(".top > .menu[open]").forEach((menu) => { menu.open = false; menu.querySelector("summary").focus(); });
  if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest("input:not([type=range]), select, textarea")) return;
  const whole = document.getElementById("whole");
  if (event.key === "l" && whole) whole.open = !whole.open;
});
document.addEventListener("click", (event) => {
  document.querySelectorAll(".top > .menu[open]").forEach((menu) => { if (!menu.contains(event.target)) menu.open = false; });
});

/* On a narrow screen the pages, and the views of a page, are lines to be pushed: what is open is in sight. */
function showCurrent() {
  document.querySelectorAll(".stages, .switcher").forEach((line) => {
    const here = line.querySelector("[aria-current]");
    if (here) line.scrollLeft += here.getBoundingClientRect().left - line.getBoundingClientRect().left - (line.clientWidth - here.clientWidth) / 2;
  });
}
document.addEventListener("htmx:afterSettle", showCurrent);
showCurrent();

/* What an address points at inside a fold is unfolded, the field a verdict waits for is focused. */
function unfold() {
  const aim = window.location.hash.length > 1 && document.getElementById(decodeURIComponent(window.location.hash.slice(1)));
  if (!aim) return;
  for (let fold = aim.closest("details"); fold; fold = fold.parentElement && fold.parentElement.closest("details")) fold.open = true;
  aim.scrollIntoView({ block: aim.matches("details, section") ? "start" : "center" });
  if (aim.matches("input, select, textarea")) aim.focus({ preventScroll: true });
}
window.addEventListener("hashchange", unfold);
document.addEventListener("DOMContentLoaded", unfold);
const waitedFor = () => document.querySelector("#next[data-focus] :is(input, select):not([type=hidden])");
let inNext = false;
document.addEventListener("htmx:beforeSwap", () => { inNext = Boolean(document.activeElement && document.activeElement.closest("#next")); });
document.addEventListener("htmx:afterSettle", () => {
  const field = waitedFor();
  if (inNext && field) field.focus({ preventScroll: true });
});
document.addEventListener("DOMContentLoaded", () => {
  const field = waitedFor();
  if (field && !window.location.hash) field.focus({ preventScroll: true });
});

/* Of the bench sums one is open at a time: the answer that takes its own place is that one. */
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.elt.matches("details.sum-chosen")) event.detail.elt.open = true;
});
