// A page on the screen: its plies and controls, their names and values for those who do not see them, what lies over it.
import { make, Drawing, forgetText } from "./draw.js";

const parted = { radiogroup: "radio", group: "button", combobox: "button", spinbutton: "button" };

function nameValue(group, c, now) {
  const was = group.was || (group.was = {});
  const set = (key, value) => {
    if (was[key] === value) return;
    was[key] = value;
    value === undefined ? group.removeAttribute(key) : group.setAttribute(key, value);
  };
  if (c.role === "slider" || c.role === "spinbutton" || c.role === "meter") {
    set("aria-valuemin", 0);
    set("aria-valuemax", 100);
    set("aria-valuenow", now.known ? Math.round((now.t || 0) * 100) : undefined);
    set("aria-valuetext", now.text || "not known");
  } else if (c.role === "switch") {
    set("aria-checked", now.known ? String(!!now.on) : "mixed");
  } else if (c.touch === "press" || c.touch === "hold") {
    set("aria-pressed", now.mixed ? "mixed" : String(!!now.on));
  } else if (now.text) {
    set("aria-label", c.name + ", " + now.text);
  }
  set("aria-disabled", now.asleep ? "true" : undefined);
}

function partsOf(sketch) { // the box of each part
  const boxes = [];
  for (const m of sketch.marks) if (m.k === "r" && m.part !== undefined && !boxes[m.part]) boxes[m.part] = m;
  return boxes;
}

const number = (v) => (Array.isArray(v) ? v[0] : v || 0);

export class Page {
  constructor(told, stage) {
    this.told = told;
    this.stage = stage;
    this.controls = new Map();
    this.plies = new Map();
    const { width, height } = told.surface;
    this.svg = make("svg", { viewBox: `0 0 ${width} ${height}`, role: "application", "aria-label": told.page.name });
    make("rect", { width, height, fill: told.page.fill }, this.svg);
    this.svg.style.color = told.page.accent;
    for (const ply of told.plies || []) this.addPly(ply);
    this.over = make("g", { class: "over" }, this.svg);
    // Tab goes as one reads: by lines, from left to right.
    const order = [...this.controls.values()].filter((c) => c.told.touch);
    order.sort((a, b) => {
      const line = Math.min(a.told.h, b.told.h) / 2;
      return Math.abs(a.told.y - b.told.y) > line ? a.told.y - b.told.y : a.told.x - b.told.x;
    });
    order.forEach((c, i) => c.group.setAttribute("tabindex", i + 1));
    stage.replaceChildren(this.svg);
    this.fit();
    document.fonts.ready.then(() => {
      forgetText();
      this.redraw();
    });
  }

  // The whole page where fingers can still use it; else larger than the screen, which then scrolls.
  fit() {
    const { width, height } = this.told.surface;
    const whole = Math.min(this.stage.clientWidth / width, this.stage.clientHeight / height);
    const least = Math.min(0.5, Math.max(this.stage.clientWidth / width, this.stage.clientHeight / height));
    const scale = Math.max(whole, least);
    this.svg.setAttribute("width", width * scale);
    this.svg.setAttribute("height", height * scale);
  }

  addPly(ply) {
    const classes = ["ply"];
    if (ply.comes) classes.push(ply.comes, ply.drawer ? ply.drawer.edge : "bottom");
    const group = make("g", { class: classes.join(" ") + (ply.comes ? "" : " hidden") }, this.svg);
    this.plies.set(ply.id, { group, told: ply });
    if (ply.drawer) {
      const d = ply.drawer;
      make("rect", { x: d.x, y: d.y, width: d.w, height: d.h, fill: d.fill }, group);
    }
    for (const c of ply.controls) this.addControl(c, group);
  }

  addControl(c, ply) {
    const group = make("g", { class: "control hidden" + (c.touch ? " touch" : ""), id: "c-" + c.id,
      transform: `translate(${c.x} ${c.y})`, role: c.role || "img", "aria-label": c.name }, ply);
    group.dataset.control = c.id;
    if (c.touch) make("rect", { width: c.w, height: c.h, fill: "transparent" }, group); // is pressed where nothing is drawn
    const drawing = new Drawing(c.sketch, group, this.told.pictures || {});
    make("rect", { class: "focus", x: -4, y: -4, width: c.w + 8, height: c.h + 8, rx: 12, stroke: this.told.page.accent },
      group);
    const one = { told: c, group, drawing, now: {}, parts: [] };
    if (c.parts && c.touch && c.sketch.parts)
      partsOf(c.sketch).forEach((m, i) => {
        one.parts[i] = make("rect", { class: "part", x: number(m.x), y: number(m.y), width: number(m.w), height: number(m.h),
          fill: "transparent", role: parted[c.role] || "button", "aria-label": c.parts[i] || String(i + 1) }, group);
      });
    this.controls.set(c.id, one);
  }

  draw(one) {
    one.drawing.show(one.now);
    if (one.asleep !== !!one.now.asleep) one.group.style.opacity = (one.asleep = !!one.now.asleep) ? 0.45 : "";
    // What moves all the time is told to those who hear it now and then.
    const moment = performance.now();
    if (!one.told.touch && moment - (one.namedAt ?? -1e9) < 1000) return;
    one.namedAt = moment;
    nameValue(one.group, one.told, one.now);
    one.parts.forEach((part, i) => {
      if (part.getAttribute("role") === "radio") part.setAttribute("aria-checked", String(one.now.chosen === i));
    });
  }

  redraw() {
    for (const one of this.controls.values()) {
      for (const m of one.drawing.marks) m.element.said = undefined;
      this.draw(one);
    }
  }

  show(told) {
    for (const id in told.controls || {}) {
      const one = this.controls.get(id);
      if (!one) continue;
      one.now = told.controls[id];
      this.draw(one);
    }
    if (told.seen) {
      const seen = new Set(told.seen);
      for (const [id, one] of this.controls) one.group.classList.toggle("hidden", !seen.has(id));
    }
    if (told.open) {
      const open = new Set(told.open);
      for (const [id, ply] of this.plies) {
        ply.group.classList.toggle(ply.told.comes ? "open" : "hidden", ply.told.comes ? open.has(id) : !open.has(id));
        ply.group.setAttribute("aria-hidden", String(!open.has(id)));
      }
    }
    if (told.over !== undefined) this.showOver(told.over);
  }

  showOver(over) {
    const was = this.overTold;
    this.overTold = over;
    if (!over) {
      this.over.replaceChildren();
      if (was) this.controls.get(was.of)?.group.focus();
      return;
    }
    // The same one with another value: nothing is made anew, so that the keys keep their focus.
    if (was && was.of === over.of && JSON.stringify(was.marks) === JSON.stringify(over.marks)) {
      this.overDrawing.show(over.now);
      return;
    }
    this.over.replaceChildren();
    this.overDrawing = new Drawing(over, this.over, {});
    this.overDrawing.show(over.now);
    partsOf(over).forEach((m, i) => {
      const part = make("rect", { class: "part touch", x: number(m.x), y: number(m.y), width: number(m.w),
        height: number(m.h), fill: "transparent", role: over.typed ? "button" : "option", tabindex: 1000 + i,
        "aria-label": over.names[i] }, this.over);
      part.dataset.part = i;
    });
    // Enter after the figures sets them.
    const first = this.over.querySelector(`[data-part="${over.typed ? over.names.length - 1 : over.now.chosen ?? 0}"]`);
    if (first) first.focus();
  }
}
