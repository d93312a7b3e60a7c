// Draws controls from their sketches: marks whose lengths move with a position. It knows no kind of control.
const SVG = "http://www.w3.org/2000/svg";

export function make(name, attributes = {}, parent = null) {
  const element = document.createElementNS(SVG, name);
  for (const key in attributes) element.setAttribute(key, attributes[key]);
  if (parent) parent.appendChild(element);
  return element;
}

// ---- text ----

const ruler = document.createElement("canvas").getContext("2d");
let known = new Map();
export function forgetText() { known = new Map(); } // once fonts have come

function fontOf(mark, size) {
  const weight = mark.bold ? 700 : mark.figures ? 400 : 500;
  return `${weight} ${size}px ${mark.figures ? '"JetBrains Mono"' : "Manrope"}, sans-serif`;
}

function measure(font, text) {
  const key = font + "\n" + text;
  let m = known.get(key);
  if (!m) {
    if (known.size > 5000) known.clear();
    ruler.font = font;
    const is = ruler.measureText(text);
    m = { width: is.width, up: is.fontBoundingBoxAscent, down: is.fontBoundingBoxDescent };
    known.set(key, m);
  }
  return m;
}

// The lines of a text, as the window breaks them: a word that is wider than its box makes the letters smaller, as far as
// can be read; lines are broken only where the box has room for two and the text has none; else it is cut at its end.
const smallest = 0.6;
export function linesOf(mark, text, width, height) {
  const words = text.split(" ").filter((w) => w);
  let size = mark.size, font = fontOf(mark, size);
  const longest = Math.max(0, ...words.map((w) => measure(font, w).width));
  if (longest > width && width > 0) {
    size = Math.max(1, Math.floor(mark.size * Math.max(smallest, width / longest)));
    font = fontOf(mark, size);
  }
  const is = measure(font, text);
  const high = is.up + is.down;
  let lines = [text];
  if (is.width > width && height >= 2 * high) {
    lines = [];
    let line = "";
    for (const word of words) {
      const longer = line ? line + " " + word : word;
      if (line && measure(font, longer).width > width) {
        lines.push(line);
        line = word;
      } else {
        line = longer;
      }
    }
    lines.push(line);
  }
  const cut = (line) => {
    if (measure(font, line).width <= width + 0.5) return line;
    const letters = Array.from(line);
    while (letters.length && measure(font, letters.join("") + "…").width > width + 0.5) letters.pop();
    return letters.join("").trimEnd() + "…";
  };
  return { lines: lines.map(cut), up: is.up, high, size };
}

function setText(element, mark, text, box) {
  const said = text + "\n" + box.w;
  if (element.said === said) return;
  element.said = said;
  const set = linesOf(mark, text, box.w, box.h);
  element.setAttribute("font-size", set.size);
  element.replaceChildren();
  const x = mark.stand === "left" ? box.x : mark.stand === "right" ? box.x + box.w : box.x + box.w / 2;
  let y = box.y + (box.h - set.high * set.lines.length) / 2 + set.up;
  for (const line of set.lines) {
    const span = make("tspan", { x, y }, element);
    span.textContent = line;
    y += set.high;
  }
}

// ---- marks ----

const at = (length, t) => (length === undefined ? 0 : Array.isArray(length) ? length[0] + length[1] * t : length);
const moves = (m) => [m.x, m.y, m.w, m.h, m.from, m.sweep].some(Array.isArray);

function drawn(mark, now) {
  const one = mark.of === undefined ? undefined : (now.series || [])[mark.of];
  const isKnown = mark.of === undefined ? !!now.known : one !== undefined && one >= 0;
  const isOn = mark.of === undefined ? !!now.on : isKnown && one >= 0.5;
  switch (mark.when) {
    case undefined: return true;
    case "on": return isKnown && isOn;
    case "off": return isKnown && !isOn;
    case "unknown": return !isKnown;
    case "known": return isKnown;
    case "chosen": return isKnown && now.chosen === mark.part;
    case "held": return (now.held || []).includes(Math.max(mark.part ?? 0, 0));
  }
  return true;
}

// Colours are #RRGGBB or #RRGGBBAA, which browsers know.
function elementOf(mark) {
  const names = { r: "rect", e: "ellipse", p: "polygon", l: "line", a: "path", t: "text", c: "g", i: "image" };
  const element = make(names[mark.k]);
  if (mark.k === "t") {
    element.setAttribute("fill", mark.fill || "none");
    element.setAttribute("text-anchor", mark.stand === "left" ? "start" : mark.stand === "right" ? "end" : "middle");
    element.setAttribute("font-family", (mark.figures ? "'JetBrains Mono'" : "Manrope") + ", sans-serif");
    element.setAttribute("font-size", mark.size);
    element.setAttribute("font-weight", mark.bold ? 700 : mark.figures ? 400 : 500);
    return element;
  }
  if (mark.k === "c") {
    if (mark.fill) make("path", { fill: mark.fill, stroke: "none" }, element);
    make("path", { fill: "none", stroke: mark.edge || "none", "stroke-width": mark.thick || 1, "stroke-linejoin": "round" },
      element);
    return element;
  }
  element.setAttribute("fill", mark.k === "a" || mark.k === "l" ? "none" : mark.fill || "none");
  if (mark.edge && mark.thick) {
    element.setAttribute("stroke", mark.edge);
    element.setAttribute("stroke-width", mark.thick);
    element.setAttribute("stroke-linecap", "round");
  }
  return element;
}

function place(element, mark, t) {
  const box = { x: at(mark.x, t), y: at(mark.y, t), w: at(mark.w, t), h: at(mark.h, t) };
  const inset = mark.edge && mark.thick ? mark.thick / 2 : 0; // the edge lies within the box
  const was = element.was || (element.was = {});
  const set = (values) => { // only what is another: each costs the browser a look at all of it
    for (const key in values)
      if (was[key] !== values[key]) element.setAttribute(key, (was[key] = values[key]));
  };
  const w = Math.max(0, box.w - 2 * inset), h = Math.max(0, box.h - 2 * inset);
  if (mark.k === "r") {
    const corner = Math.min(mark.corner || 0, w / 2, h / 2);
    set({ x: box.x + inset, y: box.y + inset, width: w, height: h, rx: corner, ry: corner });
  } else if (mark.k === "e") {
    set({ cx: box.x + box.w / 2, cy: box.y + box.h / 2, rx: w / 2, ry: h / 2 });
  } else if (mark.k === "p") {
    set({ points: (mark.points || []).map((p) => p.join(",")).join(" ") });
  } else if (mark.k === "l") {
    set({ x1: box.x, y1: box.y, x2: box.x + box.w, y2: box.y + box.h });
  } else if (mark.k === "a") {
    const from = at(mark.from, t), sweep = Math.max(-359.9, Math.min(359.9, at(mark.sweep, t)));
    const point = (degrees) => {
      const a = ((degrees - 90) * Math.PI) / 180;
      return [box.x + box.w / 2 + (w / 2) * Math.cos(a), box.y + box.h / 2 + (h / 2) * Math.sin(a)];
    };
    const begin = point(from), end = point(from + sweep);
    set({ d: `M${begin} A${w / 2} ${h / 2} 0 ${Math.abs(sweep) > 180 ? 1 : 0} ${sweep < 0 ? 0 : 1} ${end}` });
  } else if (mark.k === "i") {
    set({ x: box.x, y: box.y, width: box.w, height: box.h, preserveAspectRatio: "xMidYMid meet" });
  }
  return box;
}

function setCurve(element, mark, box, series) {
  // Parts that are not known leave a gap.
  const runs = [];
  let run = [];
  series.forEach((v, i) => {
    if (v < 0) {
      if (run.length) runs.push(run);
      run = [];
    } else {
      run.push([box.x + (series.length > 1 ? (box.w * i) / (series.length - 1) : 0), box.y + box.h * (1 - v)]);
    }
  });
  if (run.length) runs.push(run);
  const line = runs.map((r) => "M" + r.map((p) => p.join(" ")).join(" L")).join(" ");
  const below = runs.map((r) => `M${r[0][0]} ${box.y + box.h} L` + r.map((p) => p.join(" ")).join(" L") +
    ` L${r[r.length - 1][0]} ${box.y + box.h} Z`).join(" ");
  const paths = element.children;
  if (paths.length > 1) paths[0].setAttribute("d", below);
  paths[paths.length - 1].setAttribute("d", line);
}

// A sketch drawn into a group; `pictures` finds a file's address.
export class Drawing {
  constructor(sketch, group, pictures) {
    this.pictures = pictures;
    this.marks = sketch.marks.map((mark) => {
      const element = elementOf(mark);
      group.appendChild(element);
      return { mark, element, moves: moves(mark), box: place(element, mark, 0), shown: true };
    });
  }
  show(now) {
    for (const one of this.marks) {
      const { mark, element } = one;
      const shown = drawn(mark, now) && (mark.k !== "i" || !!now.picture);
      if (shown !== one.shown) {
        one.shown = shown;
        element.classList.toggle("hidden", !shown);
      }
      if (!shown) continue;
      const t = mark.of === undefined ? now.t || 0 : (now.series || [])[mark.of] || 0;
      if (one.moves && one.t !== t) one.box = place(element, mark, (one.t = t));
      if (mark.k === "t") setText(element, mark, mark.text.replaceAll("{value}", now.text || ""), one.box);
      if (mark.k === "c") setCurve(element, mark, one.box, now.series || []);
      if (mark.k === "i" && element.file !== now.picture) {
        element.file = now.picture;
        element.setAttribute("href", this.pictures[now.picture] || "");
      }
    }
  }
}
