#include <valves/schedule.h>

static const int dawn = 6 * 60;

Schedule::Schedule(Valve &valve, int minutes) : valve(valve), minutes(minutes) {}

void Schedule::minute_passed(int minute_of_day) {
    bool wet = minute_of_day >= dawn && minute_of_day < dawn + minutes;
    valve.turn(wet ? State::open : State::shut);
}
