// The line to whoever serves the page, fingers and keys, and what is asked of people.
import { Page } from "./page.js";

const stage = document.getElementById("stage");
const bar = document.getElementById("bar");
const notice = document.getElementById("notice");
const card = document.getElementById("card");
const surface = decodeURIComponent((location.pathname.match(/^\/s\/([^/]+)/) || [])[1] || "");

let page = null, line = null, heardAt = 0, wait = 400, roles = [], role = "";

// ---- the line ----

function send(...message) {
  if (line && line.readyState === WebSocket.OPEN) line.send(JSON.stringify(message));
}

function kept(value) { // the session, for a line that is lost: of this tab alone
  try {
    if (value === undefined) return sessionStorage.getItem("session:" + surface) || "";
    value ? sessionStorage.setItem("session:" + surface, value) : sessionStorage.removeItem("session:" + surface);
  } catch { /* a browser that keeps nothing asks for the PIN again */ }
  return "";
}

function connect() {
  line = new WebSocket((location.protocol === "https:" ? "wss://" : "ws://") + location.host + "/ws");
  const mine = line;
  line.onopen = () => {
    heardAt = performance.now();
    send("open", surface, kept());
  };
  line.onmessage = (event) => {
    heardAt = performance.now();
    wait = 400;
    heard(JSON.parse(event.data));
  };
  line.onclose = () => {
    if (mine !== line) return;
    line = null;
    lost();
    setTimeout(connect, wait);
    wait = Math.min(5000, wait * 1.6);
  };
}

setInterval(() => { // a line that says nothing for that long is none
  if (line && line.readyState === WebSocket.OPEN && performance.now() - heardAt > 4000) line.close();
}, 1000);

function say(text, seconds = 0) {
  notice.textContent = text;
  notice.hidden = !text;
  clearTimeout(say.timer);
  if (seconds) say.timer = setTimeout(() => { notice.hidden = true; }, seconds * 1000);
}

function lost() {
  stage.classList.add("lost");
  fingers.clear();
  if (!card.hidden) closeCard();
  say("The line to the device is lost. What is shown may be old. Trying again…");
}

function heard(told) {
  if (told.is !== "beat") {
    if (stage.classList.contains("lost")) {
      stage.classList.remove("lost");
      say("");
    }
  }
  switch (told.is) {
    case "page":
      role = told.role || "";
      roles = told.roles || [];
      if (!told.page) {
        page = null;
        stage.replaceChildren();
        say("There is nothing to show here.");
        break;
      }
      document.title = told.surface.name + " · " + told.page.name;
      document.querySelector("meta[name=theme-color]").content = told.page.fill;
      document.body.style.background = told.page.fill;
      fingers.clear();
      page = new Page(told, stage);
      performance.mark("page drawn");
      showBar();
      break;
    case "now":
      if (!page) break;
      page.show(told);
      if (told.said !== undefined) say(told.said);
      if (told.ask !== undefined) told.ask === null ? closeCard("ask") : ask(told.ask);
      if (told.wanted !== undefined) told.wanted ? askPin(told.wanted) : closeCard("pin");
      break;
    case "surfaces":
      list(told);
      break;
    case "session":
      kept(told.session);
      if (told.session) closeCard("pin");
      break;
    case "refused":
      refused(told);
      break;
    case "gone":
      page = null;
      stage.replaceChildren();
      say("This surface is not here any more.");
      break;
    case "error":
      console.warn(told.why);
      break;
  }
}

function list(told) {
  page = null;
  const box = document.createElement("div");
  box.id = "list";
  const head = document.createElement("h1");
  head.textContent = told.surfaces.length ? "Touch surfaces here" : "This device shows no touch surface yet";
  box.append(head);
  for (const s of told.surfaces) {
    const a = document.createElement("a");
    a.href = "/s/" + encodeURIComponent(s.id);
    a.textContent = s.name;
    box.append(a);
  }
  stage.replaceChildren(box);
}

// ---- who is here ----

function showBar() {
  bar.hidden = !role;
  if (!role) return;
  const name = (roles.find((r) => r.id === role) || {}).name || role;
  const leave = document.createElement("button");
  leave.textContent = "Leave";
  leave.onclick = () => {
    kept("");
    send("leave");
  };
  bar.replaceChildren(name, leave);
}

let cardOf = "", before = null;
function openCard(of, title, words, buttons) {
  before = document.activeElement;
  cardOf = of;
  const form = document.createElement("form");
  form.setAttribute("role", of === "ask" ? "alertdialog" : "dialog");
  form.setAttribute("aria-modal", "true");
  form.setAttribute("aria-labelledby", "card-title");
  const head = document.createElement("h1");
  head.id = "card-title";
  head.textContent = title;
  form.append(head, ...words);
  const row = document.createElement("div");
  row.className = "row";
  for (const b of buttons) {
    const button = document.createElement("button");
    button.type = b.main ? "submit" : "button";
    if (b.main) button.className = "main";
    button.textContent = b.text;
    if (!b.main) button.onclick = b.does;
    row.append(button);
  }
  form.append(row);
  form.onsubmit = (event) => {
    event.preventDefault();
    buttons.find((b) => b.main).does();
  };
  card.replaceChildren(form);
  card.hidden = false;
  (form.querySelector("input") || row.firstChild).focus();
}
function closeCard(of) {
  if (card.hidden || (of && of !== cardOf)) return;
  card.hidden = true;
  card.replaceChildren();
  if (before && before.isConnected) before.focus();
}
card.addEventListener("keydown", (event) => {
  if (event.key === "Escape") {
    event.preventDefault();
    cardOf === "ask" ? send("answer", false) : send("let-be");
  } else if (event.key === "Tab") { // stays within
    const all = [...card.querySelectorAll("button, input, select")];
    const edge = event.shiftKey ? all[0] : all[all.length - 1];
    if (document.activeElement === edge) {
      event.preventDefault();
      (event.shiftKey ? all[all.length - 1] : all[0]).focus();
    }
  }
});

function ask(what) {
  openCard("ask", (what || "Do it") + "?", [], [
    { text: "No", does: () => send("answer", false) },
    { text: "Yes", main: true, does: () => send("answer", true) },
  ]);
}

function askPin(wanted) {
  const may = roles.filter((r) => wanted.roles.includes(r.id));
  const who = document.createElement("select");
  for (const r of may) who.append(new Option(r.name, r.id));
  const pin = document.createElement("input");
  pin.type = "password";
  pin.inputMode = "numeric";
  pin.autocomplete = "off";
  pin.maxLength = 12;
  const labelled = (text, field) => {
    const label = document.createElement("label");
    label.append(text, field);
    return label;
  };
  const why = document.createElement("p");
  why.className = "why";
  why.setAttribute("role", "alert");
  const words = may.length > 1 ? [labelled("Who are you?", who)] : [];
  words.push(labelled(may.length === 1 ? "PIN of " + may[0].name : "PIN", pin), why);
  openCard("pin", wanted.page, words, [
    { text: "Back", does: () => send("let-be") },
    { text: "Open", main: true, does: () => send("be", who.value || "", pin.value) },
  ]);
}

function refused(told) {
  const why = card.querySelector(".why");
  const text = told.why[0].toUpperCase() + told.why.slice(1) + ". " + (told.remedy || "");
  if (!why) return say(text, 5);
  why.textContent = text;
  const pin = card.querySelector("input");
  pin.value = "";
  pin.focus();
}

// ---- fingers ----

const fingers = new Map(); // pointer -> { finger, x, y, moved }
function placeOf(event) {
  const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(page.svg.getScreenCTM().inverse());
  return [Math.round(p.x * 10) / 10, Math.round(p.y * 10) / 10];
}
stage.addEventListener("pointerdown", (event) => {
  if (!page || !page.svg.contains(event.target) || (event.pointerType === "mouse" && event.button !== 0)) return;
  const touched = event.target.closest(".touch");
  if (event.pointerType === "touch" && !touched && !page.overTold) {
    // Maybe somebody scrolls; a press beside a drawer still closes it.
    const [x, y] = placeOf(event);
    send("press", 99, x, y);
    send("release", 99);
    return;
  }
  let finger = 0;
  const taken = new Set([...fingers.values()].map((f) => f.finger));
  while (taken.has(finger)) ++finger;
  if (finger > 9) return;
  const [x, y] = placeOf(event);
  fingers.set(event.pointerId, { finger, x, y, moved: false });
  try { page.svg.setPointerCapture(event.pointerId); } catch { /* it is gone already */ }
  send("press", finger, x, y);
  const control = touched && touched.closest("[tabindex]");
  if (control) control.focus({ preventScroll: true });
  event.preventDefault();
});
// A finger on a control moves it and not the page, whatever a browser makes of touch-action within a picture.
stage.addEventListener("touchstart", (event) => {
  if (event.target.closest?.(".touch") || (page && page.overTold)) event.preventDefault();
}, { passive: false });
let framed = false;
stage.addEventListener("pointermove", (event) => {
  const f = fingers.get(event.pointerId);
  if (!f || !page) return;
  [f.x, f.y] = placeOf(event);
  f.moved = true;
  if (framed) return; // as often as the screen shows something
  framed = true;
  requestAnimationFrame(() => {
    framed = false;
    for (const one of fingers.values())
      if (one.moved) {
        one.moved = false;
        send("move", one.finger, one.x, one.y);
      }
  });
});
function lifted(event) {
  const f = fingers.get(event.pointerId);
  if (!f) return;
  fingers.delete(event.pointerId);
  if (event.type === "pointercancel") return send("cancel", f.finger); // the browser took it: nothing was meant
  if (f.moved) send("move", f.finger, f.x, f.y);
  send("release", f.finger);
}
stage.addEventListener("pointerup", lifted);
stage.addEventListener("pointercancel", lifted);
stage.addEventListener("contextmenu", (event) => event.preventDefault());

// ---- keys ----

const steps = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 10, PageDown: -10 };
let heldKey = "";
stage.addEventListener("keydown", (event) => {
  if (!page || event.ctrlKey || event.altKey || event.metaKey) return;
  const over = page.overTold;
  if (over) {
    const part = document.activeElement?.dataset?.part;
    if (event.key === "Escape") send("over", "escape");
    else if (over.typed && /^[0-9.-]$/.test(event.key)) send("over", event.key);
    else if (over.typed && event.key === ",") send("over", ".");
    else if (over.typed && event.key === "Backspace") send("over", "back");
    else if (event.key === "Enter" || event.key === " ") {
      if (part !== undefined) send("choose", Number(part));
    } else if (steps[event.key] && !over.typed) {
      const all = [...page.over.querySelectorAll(".part")];
      const i = all.indexOf(document.activeElement);
      all[(i + (steps[event.key] < 0 ? 1 : all.length - 1)) % all.length].focus();
    } else return;
    event.preventDefault();
    return;
  }
  const id = event.target.closest?.(".control")?.dataset.control;
  const control = id && page.controls.get(id);
  if (!control) return;
  const touch = control.told.touch;
  if (steps[event.key]) send("step", id, steps[event.key]);
  else if ((event.key === "Enter" || event.key === " ") && touch === "hold") {
    if (!event.repeat) {
      heldKey = event.key;
      send("press", 9, control.told.x + control.told.w / 2, control.told.y + control.told.h / 2);
    }
  } else if (event.key === "Enter" || event.key === " ") {
    if (!event.repeat) send("click", id);
  } else if ((touch === "dial" && /^[0-9*#]$/.test(event.key)) || (touch === "open" && /^[0-9.-]$/.test(event.key)))
    send("key", id, event.key);
  else if (touch === "dial" && event.key === "Backspace") send("key", id, "back");
  else return;
  event.preventDefault();
});
stage.addEventListener("keyup", (event) => {
  if (heldKey && event.key === heldKey) {
    heldKey = "";
    send("release", 9);
  }
});

addEventListener("resize", () => page && page.fit());
if ("serviceWorker" in navigator && isSecureContext) navigator.serviceWorker.register("/worker.js").catch(() => {});
if (surface) document.querySelector("link[rel=manifest]").href = "/manifest.webmanifest?s=" + encodeURIComponent(surface);
connect();
