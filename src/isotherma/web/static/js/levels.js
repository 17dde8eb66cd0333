/* One cursor for all lines of the Budgets page: by pointer, or by the moment's slider. */

function pointsOf(path) {
  return path.getAttribute("d").slice(1).split("L").map((pair) => pair.split(" ").map(Number));
}

function levelAt(points, x) {
  let before = points[0];
  for (const point of points) {
    if (point[0] >= x) {
      const wide = point[0] - before[0];
      return wide > 0 ? before[1] + ((point[1] - before[1]) * (x - before[0])) / wide : point[1];
    }
    before = point;
  }
  return before[1];
}

function said(svg, x) {
  const { title, full, zeroY, fullY } = svg.dataset;
  const [number, unit] = full.split(/\s/);
  const share = (Number(zeroY) - levelAt(pointsOf(svg.querySelector(".trend")), x)) / (zeroY - fullY);
  const value = Number(number.replace(",", "")) * share;
  return `${title} ${value.toPrecision(3).replace(/\.?0+$/, "")} ${unit || ""}`;
}

function showMoment(hours) {
  const slider = document.getElementById("trip-moment");
  const words = [];
  for (const svg of document.querySelectorAll("svg[data-level]")) {
    const left = Number(svg.dataset.left);
    const x = left + ((Number(svg.dataset.right) - left) * hours) / Number(slider.max);
    const line = svg.querySelector(".level-cursor");
    line.setAttribute("x1", x);
    line.setAttribute("x2", x);
    line.removeAttribute("visibility");
    if (svg.getClientRects().length) words.push(said(svg, x));
  }
  const day = Math.min(Math.floor(hours / 24) + 1, Math.round(slider.max / 24));
  const clock = `${Math.floor(hours - (day - 1) * 24)}:00`;
  slider.value = String(hours);
  slider.setAttribute("aria-valuetext", `Day ${day}, ${clock}`);
  document.getElementById("trip-moment-said").textContent = `Day ${day}, ${clock}: ${words.join(", ")}`;
}

document.addEventListener("input", (event) => {
  if (event.target.id === "trip-moment") showMoment(Number(event.target.value));
});
document.addEventListener("pointermove", (event) => {
  const svg = event.target.closest("svg[data-level]");
  if (!svg) return;
  const box = svg.getBoundingClientRect();
  const x = ((event.clientX - box.left) / box.width) * svg.viewBox.baseVal.width;
  const { left, right } = svg.dataset;
  const share = Math.min(1, Math.max(0, (x - left) / (right - left)));
  showMoment(Math.round(share * Number(document.getElementById("trip-moment").max)));
});
