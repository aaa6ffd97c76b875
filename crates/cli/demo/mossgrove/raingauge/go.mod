module mossgrove.example/raingauge

go 1.19
