package skerry.desk;

import org.immutables.value.Value;

@Value.Immutable
public abstract class Sale {
    public abstract int adults();
    public abstract int children();
    public int total() { return adults() * skerry.tariff.Tariff.pence(30, false) + children() * skerry.tariff.Tariff.pence(8, false); }
}
