module skerry.tariff {
    exports skerry.tariff;
}
