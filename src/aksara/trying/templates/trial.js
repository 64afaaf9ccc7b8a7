"use strict";
(() => {
  const data = JSON.parse(document.getElementById("data").textContent);
  const page = data.page, candidates = data.candidates;
  const byId = id => document.getElementById(id);
  const make = (tag, text, className) => {
    const element = document.createElement(tag);
    if (text) element.textContent = text;
    if (className) element.className = className;
    return element;
  };
  const state = { chosen: -1, role: page.role, replaced: new Set(page.replaced), ink: "", paper: "", weight: "400", slope: "normal", words: page.text };
  const count = (number, noun) => `${number.toLocaleString("en")} ${noun}${number === 1 ? "" : "s"}`;
  const characters = text => [...text].length;

  // ---- faces

  const faceRules = number => candidates[number].rules.map(rule =>
    `@font-face { font-family: "Candidate ${number}"; src: url("${rule.url}") format("woff2"); font-weight: ${rule.weight};`
    + ` font-style: ${rule.style}; font-stretch: ${rule.stretch}; unicode-range: ${rule.range}; font-display: block }`).join("\n");
  const stackOf = number => [`"Candidate ${number}"`, ...candidates[number].stack].join(", ");
  const addFaces = number => {
    const style = make("style", faceRules(number));
    document.head.append(style);
  };

  // ---- the user's page, in a frame that runs nothing and fetches nothing

  const withoutAddresses = text => text.replace(/url\([^)]*\)/gi, "none");
  // Nothing is left that leads anywhere, but for links, which keep their looks.
  const disarm = element => {
    for (const attribute of [...element.attributes]) {
      const name = attribute.localName;
      if (name === "style") element.setAttribute("style", withoutAddresses(attribute.value));
      else if (name === "href" && element.localName === "a") element.setAttribute("href", "#");
      else if (/^(src|srcset|href|poster|data|background|action|formaction|ping|manifest|on.*)$/.test(name) && !attribute.value.startsWith("#")) element.removeAttributeNode(attribute);
    }
  };
  const pageSource = () => {
    const copy = new DOMParser().parseFromString(page.source, "text/html");
    let number = 0;
    const gone = new Set(["link", "script", "base", "meta", "noscript", "iframe", "frame", "object", "embed", "source", "video", "audio", "track"]);
    for (const element of [...copy.querySelectorAll("*")]) {
      const name = element.localName;
      if (name === "link" && page.sheets[element.getAttribute("href")] !== undefined) {
        const style = copy.createElement("style");
        style.textContent = page.sheets[element.getAttribute("href")];
        if (element.getAttribute("media")) style.setAttribute("media", element.getAttribute("media"));
        element.replaceWith(style);
      } else if (name === "style") {
        element.textContent = page.styles[number++] ?? "";
      } else if (name === "img") {
        const picture = page.pictures[element.getAttribute("src")] ?? "data:,";
        disarm(element);
        if (picture !== "data:,") element.setAttribute("src", picture);
      } else if (gone.has(name)) {
        element.remove();
      } else {
        disarm(element);
      }
    }
    const root = copy.documentElement.outerHTML;
    return "<!doctype html>" + root;
  };
  const family = value => value.split(",")[0].trim().replace(/^["']|["']$/g, "").toLowerCase();
  const isHeading = element => element.closest("h1, h2, h3, h4, h5, h6, [role=heading]") !== null;

  // What a page's elements ask for before anything is changed: each with its family, and its own style to come back to.
  const textsOf = frame => {
    const found = [];
    for (const element of frame.contentDocument.body.querySelectorAll("*")) {
      const value = frame.contentWindow.getComputedStyle(element).fontFamily;
      found.push({ element, family: family(value), heading: isHeading(element), value: element.style.getPropertyValue("font-family"), priority: element.style.getPropertyPriority("font-family") });
    }
    return found;
  };
  const apply = view => {
    if (!view.texts) return;
    const replaced = new Set([...state.replaced].map(name => name.toLowerCase()));
    const isMeant = text => view.number >= 0 && replaced.has(text.family) && (state.role === "both" || (state.role === "headings") === text.heading);
    for (const text of view.texts) {
      if (isMeant(text)) text.element.style.setProperty("font-family", stackOf(view.number), "important");
      else if (text.value) text.element.style.setProperty("font-family", text.value, text.priority);
      else text.element.style.removeProperty("font-family");
      // What is inside of a replaced element would inherit from it.
      if (view.number >= 0 && !isMeant(text) && text.element.parentElement && text.element.parentElement.style.fontFamily.startsWith('"Candidate'))
        text.element.style.setProperty("font-family", text.computed, "important");
    }
  };
  const openView = (figure, number) => {
    const frame = make("iframe");
    frame.setAttribute("sandbox", "allow-same-origin");
    frame.title = "Your page";
    const view = { figure, frame, number, texts: null };
    frame.addEventListener("load", () => {
      const inside = frame.contentDocument;
      if (!inside || !inside.body) return;
      inside.addEventListener("click", event => event.preventDefault(), true);
      inside.addEventListener("submit", event => event.preventDefault(), true);
      for (let index = 0; index < candidates.length; index++) addTo(view, index);
      view.texts = textsOf(frame);
      for (const text of view.texts) text.computed = frame.contentWindow.getComputedStyle(text.element).fontFamily;
      readColours(frame);
      apply(view);
    });
    frame.srcdoc = pageSource();
    figure.querySelector(".port").append(frame);
    return view;
  };
  const addTo = (view, number) => {
    if (candidates[number].problem || !view.frame.contentDocument) return;
    const style = view.frame.contentDocument.createElement("style");
    style.textContent = faceRules(number);
    view.frame.contentDocument.head.append(style);
  };
  const readColours = frame => {
    const inside = frame.contentDocument, heading = inside.querySelector("h1, h2, h3") ?? inside.body;
    const style = frame.contentWindow.getComputedStyle(heading);
    state.weight = style.fontWeight; state.slope = style.fontStyle;
    state.ink = frame.contentWindow.getComputedStyle(heading).color;
    for (let element = heading; element; element = element.parentElement) {
      const paper = frame.contentWindow.getComputedStyle(element).backgroundColor;
      if (!/^(transparent|rgba\(.*, 0\))$/.test(paper)) { state.paper = paper; break; }
    }
    state.paper ||= "#fff";
    if (!state.words) { state.words = (heading === inside.body ? "" : heading.innerText.trim().replace(/\s+/g, " ")) || inside.title || "Headings"; byId("words").value = state.words; }
    drawSheet();
  };

  // ---- the list

  const warnings = candidate => {
    const found = [];
    if (candidate.missing) found.push(`lacks ${characters(candidate.missing) > 6 ? count(characters(candidate.missing), "character") : [...candidate.missing].join(" ")}`);
    if (candidate.faked.length) found.push(`faked: ${candidate.faked.join(", ")}`);
    return found.join("; ");
  };
  const choice = (number, title, facts, problem) => {
    const label = make("label", "", "choice"), input = make("input");
    input.type = "radio"; input.name = "candidate"; input.value = number; input.checked = number === state.chosen;
    input.disabled = Boolean(problem) && number >= 0;
    const name = make("b", title);
    if (number >= 0 && candidates[number].has_own_name) name.style.fontFamily = stackOf(number);
    label.append(input, name);
    for (const [text, bad] of facts) if (text) label.append(make("small", text, bad ? "bad" : ""));
    input.addEventListener("change", () => choose(number));
    return label;
  };
  const order = () => {
    const key = byId("sort").value, value = candidate => key === "family" ? candidate.family.toLowerCase() : key === "missing" ? characters(candidate.missing) : key === "faked" ? candidate.faked.length : candidate[key];
    return candidates.map((_, number) => number).sort((a, b) => {
      const [one, two] = [candidates[a], candidates[b]];
      if (Boolean(one.problem) !== Boolean(two.problem)) return one.problem ? 1 : -1;
      return value(one) < value(two) ? -1 : value(one) > value(two) ? 1 : a - b;
    });
  };
  const drawList = () => {
    const list = byId("list"), focused = document.activeElement && list.contains(document.activeElement);
    list.textContent = "";
    if (page.source) list.append(choice(-1, "Present fonts", [[page.replaced.join(", "), false]], ""));
    for (const number of order()) {
      const candidate = candidates[number];
      const facts = candidate.problem ? [[candidate.problem, true]] : [[`${candidate.size_words} in ${count(candidate.faces.length, "face")}`, false], [warnings(candidate), true]];
      list.append(choice(number, candidate.family, facts, candidate.problem));
    }
    if (focused) list.querySelector("input:checked")?.focus();
  };

  // ---- headings, figures, the command

  const drawSheet = () => {
    const lines = byId("lines");
    lines.textContent = "";
    for (const number of order()) {
      const candidate = candidates[number];
      if (candidate.problem) continue;
      const word = make("div", "", "word"), paper = make("div", "", "paper");
      paper.style.background = state.paper; paper.style.color = state.ink;
      for (const size of data.sizes) {
        const line = make("p", state.words);
        line.style.font = `${state.slope} ${state.weight} ${size}px ${stackOf(number)}`;
        line.dir = "auto";
        paper.append(line);
      }
      word.append(make("small", `${candidate.family}, ${candidate.size_words}`), paper);
      lines.append(word);
    }
  };
  const drawFigures = () => {
    const body = byId("figures");
    body.textContent = "";
    for (const number of order()) {
      const candidate = candidates[number], row = make("tr"), name = make("th", candidate.family);
      name.scope = "row";
      row.append(name);
      if (candidate.problem) { const cell = make("td", candidate.problem); cell.colSpan = 6; row.append(cell); body.append(row); continue; }
      const waiting = candidate.fallback ? candidate.fallback + (candidate.line_difference ? `, lines ${candidate.line_difference} % off` : "") : "another font";
      const cells = [candidate.size_words, candidate.faces.join(", "), [...candidate.missing].slice(0, 24).join(" ") || "none", candidate.faked.join(", ") || "none", waiting, candidate.licence];
      cells.forEach((text, index) => row.append(make("td", text, index ? "" : "number")));
      body.append(row);
    }
  };
  const drawChosen = () => {
    const candidate = candidates[state.chosen];
    byId("chosen").hidden = !candidate; byId("chosen-none").hidden = Boolean(candidate);
    if (!candidate) return;
    byId("command").textContent = candidate.command;
    byId("project").textContent = candidate.project;
    byId("write").hidden = !data.token;
    byId("written").textContent = "";
  };
  const views = [];
  const choose = number => {
    state.chosen = number;
    const view = views.find(each => each.figure.id === "then");
    if (view) {
      view.number = number;
      view.figure.querySelector("figcaption").textContent = number < 0 ? "Present fonts" : `${candidates[number].family}, ${candidates[number].size_words}`;
      apply(view);
    }
    drawChosen();
  };
  const drawAll = () => { drawList(); drawSheet(); drawFigures(); drawChosen(); };

  // ---- controls

  byId("sort").addEventListener("change", drawAll);
  byId("words").value = state.words;
  byId("words").addEventListener("input", event => { state.words = event.target.value; drawSheet(); });
  if (page.source) {
    for (const input of document.querySelectorAll("#roles input")) {
      input.checked = input.value === state.role;
      input.addEventListener("change", () => { state.role = input.value; views.forEach(apply); });
    }
    for (const present of page.families.slice(0, 8)) {
      const label = make("label"), input = make("input");
      input.type = "checkbox"; input.checked = state.replaced.has(present.name);
      input.addEventListener("change", () => { input.checked ? state.replaced.add(present.name) : state.replaced.delete(present.name); views.forEach(apply); });
      label.append(input, ` ${present.name}`);
      byId("families").append(label);
    }
    byId("width").addEventListener("change", event => { for (const view of views) view.frame.style.width = event.target.value ? `${event.target.value}px` : ""; });
    byId("beside").addEventListener("change", event => {
      byId("now").hidden = !event.target.checked;
      if (event.target.checked && views.length === 1) views.push(openView(byId("now"), -1));
    });
    if (page.left_out) byId("left-out").textContent = `${count(page.left_out, "file")} of this page ${page.left_out === 1 ? "is" : "are"} not shown here: on another host, missing, or too large to copy.`;
    views.push(openView(byId("then"), -1));
  }
  byId("write").addEventListener("click", async () => {
    const candidate = candidates[state.chosen];
    const answer = await fetch("choose", { method: "POST", headers: { "Content-Type": "application/json", "X-Token": data.token }, body: JSON.stringify({ family: candidate.family }) });
    byId("written").textContent = await answer.text();
  });
  candidates.forEach((candidate, number) => { if (!candidate.problem) addFaces(number); });
  drawAll();

  // ---- families that are still being built

  const more = async () => {
    if (!data.pending) { byId("progress").textContent = ""; return; }
    byId("progress").textContent = `· ${data.pending === 1 ? "1 family" : `${data.pending} families`} to come`;
    try {
      const answer = await fetch(`candidates?from=${candidates.length}`, { headers: { "X-Token": data.token } });
      const sent = await answer.json();
      for (const candidate of sent.candidates) {
        candidates.push(candidate);
        const number = candidates.length - 1;
        if (!candidate.problem) { addFaces(number); views.forEach(view => addTo(view, number)); }
      }
      data.pending = sent.pending;
      if (sent.candidates.length) drawAll();
    } catch { byId("progress").textContent = "· the program has ended"; return; }
    setTimeout(more, 250);
  };
  if (data.token) more();
})();
