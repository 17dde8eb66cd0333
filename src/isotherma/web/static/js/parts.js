/* Parts: find as one types, copy the run table, show the piece that was opened. */
import { ofDesign } from "./fields.js";

document.addEventListener("input", (event) => {
  if (!event.target.matches("[data-find]")) return;
  const words = event.target.value.trim().toLowerCase();
  document.querySelectorAll("[data-search]").forEach((row) => { row.hidden = !row.dataset.search.includes(words); });
  if (words) document.querySelectorAll("details.fold:has([data-search]:not([hidden]))").forEach((fold) => { fold.open = true; });
});
document.addEventListener("click", (event) => {
  const copier = event.target.closest("[data-copy]");
  if (!copier) return;
  const text = document.getElementById(copier.dataset.copy);
  text.select();
  const done = () => { copier.textContent = "Copied"; };
  if (navigator.clipboard) navigator.clipboard.writeText(text.value).then(done, () => document.execCommand("copy") && done());
  else if (document.execCommand("copy")) done();
});
document.addEventListener("submit", (event) => {
  // back to the piece that is open now, not to the one the page was first loaded with
  if (event.target.matches(".settings")) event.target.elements.back.value = window.location.pathname + window.location.search;
}, true);
let openedPiece = null;
document.addEventListener("htmx:beforeRequest", (event) => {
  if (!ofDesign(event)) return;
  const link = event.detail.elt.closest(".line a");
  openedPiece = link ? link.id : null;
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (!ofDesign(event) || !openedPiece) return;
  const row = document.getElementById(openedPiece);
  const piece = document.getElementById("piece");
  openedPiece = null;
  if (!piece) return;
  if (row) row.focus({ preventScroll: true });
  const box = piece.getBoundingClientRect();
  if (box.bottom < 120 || box.top > window.innerHeight - 160 || window.innerWidth <= 700) piece.scrollIntoView({ block: "start" });
});
