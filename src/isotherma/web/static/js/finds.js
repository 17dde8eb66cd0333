/* A list that is searched as one types: rows without every word of the search are not shown. */

function narrow(field) {
  const words = field.value.toLowerCase().split(/\s+/).filter(Boolean);
  for (const row of document.querySelectorAll(field.dataset.finds)) {
    const text = row.textContent.toLowerCase();
    row.hidden = !words.every((word) => text.includes(word));
  }
}

document.addEventListener("input", (event) => {
  if (event.target.matches?.("[data-finds]")) narrow(event.target);
});
