package skerry.tariff;

import org.junit.Assert;
import org.junit.Test;

public class OldTest {
    @Test(expected = IllegalArgumentException.class)
    public void below() { Tariff.pence(-1, false); }
    @Test public void night() { Assert.assertEquals(1050, Tariff.pence(40, true)); }
}
