import * as z from "./src/v3/external.js";

export { z };
