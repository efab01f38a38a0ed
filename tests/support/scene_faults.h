// The sentence with which a scene's text is refused.
#pragma once

#include "astasis/scene/scene.h"

#include <string>

namespace astasis::test {

inline std::string fault_of(const std::string& text) {
    try {
        scene::SceneFile file = scene::read_scene_text("depot.json", text);
        std::visit([&](auto& s) { static_cast<void>(make_world(s, file.document)); }, file.scene);
    } catch (const scene::FileError& e) {
        return e.what();
    }
    return "no fault";
}

}
