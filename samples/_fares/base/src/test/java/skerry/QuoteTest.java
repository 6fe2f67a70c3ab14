package skerry;

import skerry.fare.Vehicle;
import skerry.quote.Quote;
import skerry.quote.Quote.Hour;

/** Run by its main method, so that it needs nothing but a JDK. */
public class QuoteTest {
    public static void main(String[] args) {
        same("£24.00", new Quote(Hour.DAY).passengers(30, 41));
        same("£18.00", new Quote(Hour.DAY).passengers(30, 7, 2));
        same("£13.50", new Quote(Hour.DUSK).passengers(52));
        same("£13.00", new Quote(Hour.DAY, true).passengers(52));
        same("£36.50", new Quote(Hour.DAY).passengers(30).vehicle(new Vehicle.Car(450, false)));
        same("£13.50", new Quote(Hour.DAY).passengers(30).vehicle(new Vehicle.Bicycle(false)));
        try {
            new Quote(Hour.NIGHT, true).passengers(30);
            throw new AssertionError("a crossing at night and spring tide");
        } catch (IllegalStateException expected) {
            System.out.println("6 quotes, 1 refusal: as they should be");
        }
    }

    private static void same(String want, Quote quote) {
        if (!want.equals(quote.total().toString())) {
            throw new AssertionError(quote.total() + " instead of " + want);
        }
    }
}
