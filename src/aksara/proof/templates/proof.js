for (const face of document.querySelectorAll("[data-axes]")) {
  const sliders = [...face.querySelectorAll("input[data-axis]")];
  const draw = () => {
    for (const slider of sliders) slider.nextElementSibling.value = slider.value;
    face.style.fontVariationSettings = sliders.map(s => `"${s.dataset.axis}" ${s.value}`).join(", ");
  };
  for (const slider of sliders) slider.addEventListener("input", draw);
  for (const button of face.querySelectorAll("button[data-location]")) button.addEventListener("click", () => {
    const location = JSON.parse(button.dataset.location);
    for (const slider of sliders) if (slider.dataset.axis in location) slider.value = location[slider.dataset.axis];
    draw();
  });
}
for (const part of document.querySelectorAll(".fit")) {
  const slider = part.querySelector("input[type=range]");
  slider.closest("label").hidden = false;
  slider.addEventListener("input", () => {
    part.querySelector(".both-fonts").checked = true;
    part.style.setProperty("--web", slider.value);
    part.style.setProperty("--system", 1 - slider.value);
  });
  for (const radio of part.querySelectorAll("input[type=radio]")) radio.addEventListener("change", () => {
    part.style.removeProperty("--web");
    part.style.removeProperty("--system");
  });
  document.fonts.load(`16px "${part.dataset.family}"`).catch(() => { part.querySelector(".not-here").hidden = false; });
}
for (const select of document.querySelectorAll("select[data-faces]")) {
  select.closest("label").hidden = false;
  const cells = [...document.querySelectorAll(`#${select.dataset.faces} b`)];
  select.addEventListener("change", () => {
    const option = select.selectedOptions[0];
    const spans = option.dataset.ranges.split(",").map(each => each.trim().slice(2).split("-").map(n => parseInt(n, 16)));
    const has = code => spans.some(([first, last = first]) => first <= code && code <= last);
    for (const cell of cells) {
      cell.style.fontFamily = option.value;
      cell.classList.toggle("lacks", !has(cell.dataset.code ? parseInt(cell.dataset.code, 16) : cell.textContent.codePointAt(0)));
    }
  });
}
