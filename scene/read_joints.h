// Joints and fields of scene files.
#pragma once

#include "astasis/scene/scene.h"
#include "scene/cursor.h"

namespace astasis::scene {

// Names of bodies are taken as they stand: make_world() looks them up. Refuses keys that belong to other
// kinds.
template<int Dim> JointEntry<Dim> read_joint(const Cursor& joint);
// All but its layers, whose names the scene knows.
template<int Dim> FieldEntry<Dim> read_field(const Cursor& field);
// Of a kind of joint, whose axis is a way or a turn.
Motor read_motor(const Cursor& motor, const std::string& joint_kind);

}
