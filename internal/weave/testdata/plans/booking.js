export class Booking {
  static count = 0;
  seats = seatsOf(this);

  book(name, { night = false } = {}) {
    if (!name) return null;
    else if (night && this.seats > 2) this.seats--;
    for (const p of this.party ?? []) {
      if (p.age < 4) continue;
      Booking.count++;
    }
    let i = 0;
    while (i < 3) {
      if (full(i++)) break;
    }
    do i--; while (i > 0);
    switch (i) {
      case 0:
        i = 1;
      case 1:
        i = 2;
        break;
    }
    try {
      send(name);
    } catch {
      return this.retry?.(name);
    } finally {
      i = 0;
    }
    this.name ||= name;
    const free = (p) => p.age < 4 || p.islander;
    return night ? free(this) : name;
  }
}
export default async function* sailings(days) {
  for await (const d of days) yield d;
}
