// The booking page: reads the form, says what it costs or why it cannot be booked.
import { Basket, price, refusal } from "./rules.js";
const form = document.querySelector("form");
const quote = document.querySelector("#quote");
const total = document.querySelector("#total");
const basket = new Basket();
const field = (name) => form.elements.namedItem(name);
function read() {
    return {
        adults: field("adults").valueAsNumber || 0,
        children: field("children").valueAsNumber || 0,
        vehicle: field("vehicle").value,
        night: field("night").checked,
        hoursAhead: 24,
    };
}
function show() {
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
//# sourceMappingURL=page.js.map