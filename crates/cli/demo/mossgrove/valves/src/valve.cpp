#include <valves/valve.h>

Valve::Valve(int pin) : pin(pin), state(State::shut) {}

void Valve::turn(State to) { state = to; }
