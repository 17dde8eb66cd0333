/* Marks of the checks beside every link to a part or run, on drawings and in lists. */

const WORDS = { stop: "stop", fix: "to fix", unknown: "not known", watch: "to know" };
const SIGNS = { stop: "■", fix: "▲", unknown: "?", watch: "●" };
const SEEN = ["stop", "fix"]; // what is merely worth knowing would mark nearly everything

function keyOf(link) {
  const query = new URL(link.href.baseVal ?? link.href, location.href).searchParams;
  return query.get("piece");
}

function marked(link, found) {
  link.dataset.found = found;
  if (link instanceof SVGElement) {
    const title = document.createElementNS("http://www.w3.org/2000/svg", "title");
    title.textContent = `Checks: ${WORDS[found]}`;
    link.prepend(title);
    const box = link.getBBox();
    const sign = document.createElementNS("http://www.w3.org/2000/svg", "text");
    sign.setAttribute("class", "found-sign");
    sign.setAttribute("x", box.x + box.width);
    sign.setAttribute("y", box.y);
    sign.setAttribute("aria-hidden", "true");
    sign.textContent = SIGNS[found];
    link.append(sign);
    return;
  }
  const words = document.createElement("span");
  words.className = "found-sign";
  words.textContent = ` ${SIGNS[found]}`;
  words.title = `Checks: ${WORDS[found]}`;
  (link.firstElementChild ?? link).append(words); // never a column or line of its own
}

function showFound() {
  const mark = document.getElementById("found-mark");
  if (!mark) return;
  const marks = JSON.parse(mark.dataset.marks || "{}");
  for (const link of document.querySelectorAll('a[href*="piece="]:not([data-found])')) {
    const found = marks[keyOf(link)];
    if (SEEN.includes(found)) marked(link, found);
  }
}

document.addEventListener("htmx:load", showFound);
document.addEventListener("htmx:afterSettle", showFound);
showFound();

// on paper every finding and every list is open
let opened = [];
window.addEventListener("beforeprint", () => {
  opened = [...document.querySelectorAll("details.finding:not([open]), details[data-print-open]:not([open])")];
  for (const one of opened) one.open = true;
});
window.addEventListener("afterprint", () => {
  for (const one of opened) one.open = false;
  opened = [];
});
