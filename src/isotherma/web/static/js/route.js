/* The drawing of the route: its pieces are chosen without leaving the page, it grows around the chosen one. */
import { ofDesign } from "./fields.js";
import { restoreScroll } from "./unsent.js";

const NEAR = 1.35; // of its natural size: labels are read at arm's length
const sizes = new Map(); // drawing → "whole" or "near", as long as the page lives

const shownRoute = () => [...document.querySelectorAll("#route-scroll svg.route")].find((svg) => svg.getClientRects().length);

function intoView(always) {
  const box = document.getElementById("route-scroll");
  const svg = shownRoute();
  const piece = svg && (svg.querySelector(".node.chosen .target") || svg.querySelector(".line-link.chosen .pipe"));
  if (!piece) return;
  const at = piece.getBoundingClientRect();
  const frame = box.getBoundingClientRect();
  const left = at.left + at.width / 2 - frame.left;
  const top = at.top + at.height / 2 - frame.top;
  if (always || left < 30 || left > frame.width - 30) box.scrollLeft += left - frame.width / 2;
  if (box.scrollHeight > box.clientHeight + 1) {
    if (always || top < 30 || top > box.clientHeight - 30) box.scrollTop += top - box.clientHeight / 2;
  }
  const sheet = document.querySelector(".beside-panel:has(.chosen-piece)");
  if (!sheet || getComputedStyle(sheet).position !== "fixed") return;
  // the sheet covers the lower half: the piece stands above it, under the verdict
  const room = window.innerHeight - sheet.getBoundingClientRect().height;
  const now = piece.getBoundingClientRect();
  const middle = now.top + now.height / 2;
  if (middle < 70 || middle > room - 40) window.scrollBy(0, middle - room / 2 - 10);
}

export function applyZoom() {
  const box = document.getElementById("route-scroll");
  if (!box) return;
  const near = sizes.get(box.dataset.zoomOf) === "near";
  box.querySelectorAll("svg.route").forEach((svg) => {
    svg.style.width = near ? `${svg.viewBox.baseVal.width * NEAR}px` : "";
    svg.style.maxWidth = near ? "none" : "";
  });
  document.querySelectorAll("[data-zoom]").forEach((button) => {
    button.setAttribute("aria-pressed", String((button.dataset.zoom === "near") === near));
  });
}

function zoom(size) {
  const box = document.getElementById("route-scroll");
  sizes.set(box.dataset.zoomOf, size);
  applyZoom();
  intoView(true);
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-zoom]");
  if (button) zoom(button.dataset.zoom);
  // a piece of the drawing is asked for in place; with a key held it opens as any link does
  const link = event.target.closest("svg.route a[hx-get]");
  if (!link) return;
  if (event.ctrlKey || event.metaKey || event.shiftKey) event.stopPropagation();
  else event.preventDefault();
}, true);
document.addEventListener("keydown", (event) => {
  if (event.target.closest("input, select, textarea") || event.ctrlKey || event.metaKey || event.altKey) return;
  const box = document.getElementById("route-scroll");
  if (box && event.key.toLowerCase() === "z") zoom(sizes.get(box.dataset.zoomOf) === "near" ? "whole" : "near");
});
// once the drawing has its width again, and before it is painted, it stands where it stood
document.addEventListener("htmx:afterSwap", (event) => {
  if (!ofDesign(event)) return;
  applyZoom();
  restoreScroll();
});
document.addEventListener("htmx:afterSettle", (event) => { if (ofDesign(event)) intoView(false); });
document.addEventListener("DOMContentLoaded", () => { if (new URL(window.location).searchParams.has("piece")) intoView(false); });
