import assert from "node:assert";
import test, { after, before } from "node:test";
import { open } from "./browser.js";
import { serve } from "./serve.js";

let server, browser;
before(async () => {
  server = await serve();
  browser = await open(`http://localhost:${server.address().port}/`);
});
after(async () => {
  await browser.close();
  server.close();
});

const quote = () => browser.evaluate("document.querySelector('#quote')?.textContent");
const set = (name, value) =>
  browser.evaluate(`{
    const field = document.querySelector("form").elements.namedItem("${name}");
    field.value = "${value}";
    field.dispatchEvent(new Event("input", { bubbles: true }));
    true
  }`);

test("the page says what a crossing costs", async () => {
  assert.equal(await quote(), "14 crowns");
  await set("vehicle", "camper");
  assert.equal(await quote(), "46 crowns");
});

test("the page says why it cannot be booked", async () => {
  await set("adults", 0);
  assert.equal(await quote(), "Nobody travels.");
});

test("a booking goes into the basket", async () => {
  await set("adults", 2);
  await browser.evaluate("document.querySelector('button').click(), true");
  assert.equal(await browser.evaluate("document.querySelector('#total').textContent"), "In the basket: 60 crowns");
});
