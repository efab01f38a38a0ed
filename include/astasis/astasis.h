// All of Astasis.
#pragma once

#include "astasis/body.h"
#include "astasis/cut.h"
#include "astasis/drawing.h"
#include "astasis/error.h"
#include "astasis/ids.h"
#include "astasis/measures.h"
#include "astasis/pacer.h"
#include "astasis/pushes.h"
#include "astasis/queries.h"
#include "astasis/report.h"
#include "astasis/rotation.h"
#include "astasis/shapes.h"
#include "astasis/vec.h"
#include "astasis/version.h"
#include "astasis/world.h"
#include "astasis/world_queries.h"
