/* Arrow keys move a part in the pictures of where everything stands. */

// key → along, across, up in each view: steps the form knows
const WAYS = {
  above: { ArrowLeft: [-1, 0, 0], ArrowRight: [1, 0, 0], ArrowUp: [0, -1, 0], ArrowDown: [0, 1, 0] },
  side: { ArrowLeft: [-1, 0, 0], ArrowRight: [1, 0, 0], ArrowUp: [0, 0, 1], ArrowDown: [0, 0, -1] },
};

document.addEventListener("keydown", (event) => {
  const part = event.target.closest && event.target.closest("[data-moves]");
  const way = part && WAYS[part.dataset.view][event.key];
  if (!way || event.ctrlKey || event.metaKey || event.altKey) return;
  event.preventDefault();
  const form = document.getElementById("stand-move");
  const [along, across, up] = way;
  window.htmx.ajax("POST", form.action, {
    source: part,
    target: "#design",
    swap: "outerHTML",
    values: { part: part.dataset.moves, along, across, up, _page: "spaces" },
  });
});
