#define VALVE_PIN 7
