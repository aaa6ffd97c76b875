#pragma once

#include <valves/valve.h>

// Opens a valve for some minutes every morning.
class Schedule {
public:
    Schedule(Valve &valve, int minutes);
    void minute_passed(int minute_of_day);

private:
    Valve &valve;
    int minutes;
};
