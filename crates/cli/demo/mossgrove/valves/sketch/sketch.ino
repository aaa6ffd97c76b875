#include <valves/schedule.h>
#include "pins.h"

Valve valve(VALVE_PIN);
Schedule schedule(valve, 20);

void setup() { clock_begin(); }

void loop() { schedule.minute_passed(clock_minute()); }
