// Whether this device trusts the server: from the page in the clear by asking the secure address, on the secure one by a
// worker, which no browser starts over a certificate it does not trust, not even where somebody said "go on anyway".
(async () => {
  const at = document.querySelector("[data-connect]");
  const says = at.querySelector("[data-connect-says]"), open = at.querySelector("[data-connect-open]");
  const local = ["localhost", "127.0.0.1", "[::1]"].includes(location.hostname);
  let trusted;
  if (at.dataset.here === "secure") {
    try {
      const worker = await navigator.serviceWorker.register("/js/connect-worker.js", { scope: "/js/connect-" });
      await worker.unregister();
      trusted = true;
    } catch { trusted = false; }
  } else if (!at.dataset.connect.startsWith("https:")) {
    trusted = local;
  } else {
    try { trusted = (await fetch(`${at.dataset.connect}/connect/trusted`, { cache: "no-store" })).ok; } catch { trusted = false; }
  }
  const self = local && at.dataset.here === "clear";
  says.textContent = self ? "This is the machine Zandrik runs on: nothing has to be installed here."
    : !trusted ? "Not connected safely yet. Install the certificate (steps 1 to 3), then load this page again."
    : at.dataset.here === "clear" ? "Connected safely: this device trusts the workshop's certificate." : "Connected safely.";
  at.dataset.trusted = trusted || self;
  open.href = self ? "/" : open.href;
  open.hidden = !(trusted || self);
})();
