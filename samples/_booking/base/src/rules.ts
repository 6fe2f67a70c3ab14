// What may be booked on the web, and what it costs, in crowns.

export type Vehicle = "none" | "bicycle" | "car" | "camper";

export interface Booking {
  adults: number;
  children: number;
  vehicle: Vehicle;
  metres?: number;
  night: boolean;
  hoursAhead: number;
  islander?: boolean;
}

const LONGEST = 12;

/** Metres of deck that a booking takes. */
export function deck(b: Booking): number {
  switch (b.vehicle) {
    case "none":
      return 0;
    case "bicycle":
      return 2;
    case "car":
      return b.metres ?? 4.5;
    case "camper":
      return (b.metres ?? 7) + 1;
  }
}

/** Why a booking cannot be made, or nothing. */
export function refusal(b: Booking): string | undefined {
  if (b.adults + b.children === 0) {
    return "Nobody travels.";
  }
  if (b.children > 0 && b.adults === 0 && !b.islander) {
    return "Children travel with an adult.";
  }
  if (b.vehicle !== "none" && b.hoursAhead < 2) {
    return "Vehicles are booked two hours ahead.";
  }
  return deck(b) > LONGEST ? "Longer than 12 m: please call the harbour office." : undefined;
}

/** The price of a booking that can be made. */
export function price(b: Booking): number {
  const people = b.adults * 14 + b.children * (b.islander ? 0 : 7);
  const rate = b.night && !b.islander ? 6 : 4;
  return people + Math.ceil(deck(b) * rate);
}

/** Several bookings that are paid together. */
export class Basket {
  readonly #bookings: Booking[] = [];

  add(b: Booking): string | undefined {
    const why = refusal(b);
    if (!why) this.#bookings.push(b);
    return why;
  }

  get total(): number {
    return this.#bookings.reduce((sum, b) => sum + price(b), 0);
  }
}

/** A season's ticket, as it was sold until 2024. */
export function seasonTicket(islander: boolean): number {
  return islander ? 180 : 320;
}
