// The textbook's symbols for joints and fields, on a canvas.
#pragma once

#include "paint/canvas.h"

namespace astasis::paint {

void pin(Canvas& canvas, Place at, bool held); // a small circle, on a hatched support if the world holds it
void weld(Canvas& canvas, Place at);           // a filled lozenge
void rod(Canvas& canvas, Place a, Place b);    // a bar between two pins
void rope(Canvas& canvas, Place a, Place b);
void coil(Canvas& canvas, Place a, Place b); // a zigzag
void rail(Canvas& canvas, Place a, Place b); // two lines beside the way
void attractor(Canvas& canvas, Place at);    // rings

}
