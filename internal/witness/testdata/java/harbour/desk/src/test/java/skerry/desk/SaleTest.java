package skerry.desk;

import org.junit.Assert;
import org.junit.Test;

public class SaleTest {
    @Test
    public void family() {
        Assert.assertEquals(2700, ImmutableSale.builder().adults(2).children(2).build().total());
    }
}
