// Does nothing: that it can be registered at all shows that the browser trusts the certificate (connect.js).
self.addEventListener("install", () => self.skipWaiting());
