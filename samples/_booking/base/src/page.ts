// The booking page: reads the form, says what it costs or why it cannot be booked.

import { Basket, price, refusal, type Booking, type Vehicle } from "./rules.js";

const form = document.querySelector("form")!;
const quote = document.querySelector<HTMLElement>("#quote")!;
const total = document.querySelector<HTMLElement>("#total")!;
const basket = new Basket();

const field = (name: string): HTMLInputElement => form.elements.namedItem(name) as HTMLInputElement;

function read(): Booking {
  return {
    adults: field("adults").valueAsNumber || 0,
    children: field("children").valueAsNumber || 0,
    vehicle: field("vehicle").value as Vehicle,
    night: field("night").checked,
    hoursAhead: 24,
  };
}

function show(): void {
  const b = read();
  const why = refusal(b);
  quote.textContent = why ?? `${price(b)} crowns`;
  quote.classList.toggle("refused", why !== undefined);
}

form.addEventListener("input", show);
form.addEventListener("submit", (event) => {
  event.preventDefault();
  if (basket.add(read()) === undefined) {
    total.textContent = `In the basket: ${basket.total} crowns`;
  }
});
show();
