// The scenes that come with the project.
#pragma once

#include "astasis/scene/scene.h"

#include <algorithm>
#include <filesystem>
#include <string>
#include <vector>

namespace astasis::test {

inline std::vector<std::string> demo_scenes() {
    std::vector<std::string> names;
    for (const auto& entry : std::filesystem::directory_iterator(ASTASIS_SCENES)) {
        const std::filesystem::path name = entry.path().filename();
        if (name.extension() == ".json" && !name.stem().has_extension())
            names.push_back(name.stem().string());
    }
    std::sort(names.begin(), names.end());
    return names;
}
inline scene::SceneFile demo_scene(const std::string& name) {
    return scene::read_scene(std::string(ASTASIS_SCENES) + "/" + name + ".json");
}

}
