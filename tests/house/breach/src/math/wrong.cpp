// Lies too low to know the world.
#include "world/high.h"
