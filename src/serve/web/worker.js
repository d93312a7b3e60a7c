// Keeps what the page is made of, so that it opens and says what is wrong while the device is away.
const shell = "shell-1";
const files = ["/app.js", "/page.js", "/draw.js", "/style.css", "/icon.svg", "/fonts/manrope-500.woff2",
  "/fonts/manrope-700.woff2", "/fonts/figures-400.woff2", "/fonts/figures-700.woff2"];
self.addEventListener("install", (event) => event.waitUntil(caches.open(shell).then((c) => c.addAll(files))));
self.addEventListener("activate", (event) => event.waitUntil(caches.keys().then((names) =>
  Promise.all(names.filter((n) => n !== shell).map((n) => caches.delete(n))))));
self.addEventListener("fetch", (event) => {
  if (event.request.method !== "GET" || new URL(event.request.url).origin !== location.origin) return;
  event.respondWith(fetch(event.request).then((answer) => {
    const path = new URL(event.request.url).pathname;
    if (answer.ok && (files.includes(path) || path === "/" || path.startsWith("/s/"))) {
      const copy = answer.clone();
      caches.open(shell).then((c) => c.put(event.request, copy));
    }
    return answer;
  }, () => caches.match(event.request).then((old) => old || Response.error())));
});
