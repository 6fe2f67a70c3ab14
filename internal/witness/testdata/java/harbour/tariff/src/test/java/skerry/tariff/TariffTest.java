package skerry.tariff;

import static org.junit.jupiter.api.Assertions.*;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class TariffTest {
    @ParameterizedTest
    @CsvSource({"3,0", "10,450", "40,900"})
    void byAge(int age, int pence) { assertEquals(pence, Tariff.pence(age, false)); }
}
