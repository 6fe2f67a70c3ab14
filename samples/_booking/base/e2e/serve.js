// Serves the page, for tests and to look at it.
import { createReadStream } from "node:fs";
import { createServer } from "node:http";
import { extname } from "node:path";
import { fileURLToPath } from "node:url";

const types = { ".html": "text/html", ".js": "text/javascript", ".map": "application/json" };

export function serve(port = 0) {
  const server = createServer((request, response) => {
    const name = new URL(request.url, "http://localhost").pathname.replace(/\/$/, "/index.html");
    const file = createReadStream(fileURLToPath(new URL("../web" + name, import.meta.url)));
    file.on("open", () => response.writeHead(200, { "Content-Type": types[extname(name)] ?? "text/plain" }));
    file.on("error", () => response.writeHead(404).end("There is no such page.\n"));
    file.pipe(response);
  });
  return new Promise((done) => server.listen(port, "127.0.0.1", () => done(server)));
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const server = await serve(8017);
  console.log(`http://localhost:${server.address().port}`);
}
