#pragma once

enum class State { shut, open };
