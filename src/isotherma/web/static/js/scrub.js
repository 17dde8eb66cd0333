/* A moment of the draw: the slider moves the cursor, the store and the readout. */

export function startScrub() {
  const slider = document.querySelector("[data-scrub]");
  const data = document.getElementById("readouts");
  if (!slider || !data || slider.dataset.ready) return;
  slider.dataset.ready = "yes";
  const rows = JSON.parse(data.textContent);
  const charts = document.querySelectorAll("[data-chart] svg, [data-chart-panels] svg");
  const cells = document.querySelectorAll("[data-store] svg rect:not(.vessel)");
  const texts = document.querySelectorAll("[data-store] svg text");
  const show = () => {
    const row = rows[Number(slider.value)];
    if (!row) return;
    charts.forEach((chart) => {
      const x = row[chart.dataset.x];
      const line = chart.querySelector("[data-cursor] line");
      line.setAttribute("x1", x);
      line.setAttribute("x2", x);
      const dot = chart.querySelector("[data-cursor] circle");
      if (!dot) return;
      dot.setAttribute("cx", x);
      dot.setAttribute("cy", row.y);
    });
    row.layers.forEach(([fill, ink, text], i) => {
      cells[i].setAttribute("fill", fill);
      texts[i].setAttribute("class", ink);
      texts[i].textContent = text;
    });
    document.querySelectorAll("[data-readout] [data-key], [data-readout-key]").forEach((place) => {
      place.textContent = row[place.dataset.key];
    });
    slider.setAttribute("aria-valuetext", `${row.seconds}, ${row.head}`);
  };
  slider.addEventListener("input", show);
  const follow = (event) => {
    const chart = event.currentTarget;
    const box = chart.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * chart.viewBox.baseVal.width;
    const key = chart.dataset.x;
    let best = 0;
    rows.forEach((row, i) => {
      if (Math.abs(row[key] - x) < Math.abs(rows[best][key] - x)) best = i;
    });
    slider.value = best;
    show();
  };
  charts.forEach((chart) => {
    chart.addEventListener("pointermove", follow);
    chart.addEventListener("pointerdown", follow);
  });
}
