import assert from "node:assert";
import test from "node:test";
import { deck, price, refusal } from "../web/rules.js";

const booking = (changes) => ({ adults: 1, children: 0, vehicle: "none", night: false, hoursAhead: 24, ...changes });

test("what travels takes deck", () => {
  assert.equal(deck(booking()), 0);
  assert.equal(deck(booking({ vehicle: "car" })), 4.5);
  assert.equal(deck(booking({ vehicle: "car", metres: 5 })), 5);
});

test("a fare", () => {
  assert.equal(price(booking({ adults: 2, children: 1 })), 35);
  assert.equal(price(booking({ vehicle: "car", night: true })), 41);
});

test("who cannot travel", () => {
  assert.equal(refusal(booking({ adults: 0 })), "Nobody travels.");
  assert.match(refusal(booking({ adults: 0, children: 2 })), /adult/);
  assert.equal(refusal(booking()), undefined);
});
