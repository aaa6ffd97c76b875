#pragma once

#include "state.h"

// One valve on one pin.
class Valve {
public:
    explicit Valve(int pin);
    void turn(State state);

private:
    int pin;
    State state;
};
