#include "scene/obj.h"

#include "scene/read_text.h"

#include <charconv>
#include <cmath>
#include <stdexcept>
#include <string_view>
#define TINYOBJLOADER_IMPLEMENTATION
#include <tiny_obj_loader.h>

namespace astasis::scene {
namespace {

constexpr std::string_view kBlanks = " \t\r";

// The next word of a line; empty at its end.
std::string_view next_word(std::string_view& line) {
    line.remove_prefix(std::min(line.find_first_not_of(kBlanks), line.size()));
    const std::string_view word = line.substr(0, line.find_first_of(kBlanks));
    line.remove_prefix(word.size());
    return word;
}

// Keeps the corners and faces of a text, once each is what it should be: the package takes what it cannot
// read for 0, and opens the files that a text names.
class Sieve {
public:
    std::string kept;

    void take(std::string_view line) {
        number_++;
        const std::string_view first = next_word(line);
        if (first == "v") take_corner(line);
        else if (first == "f") take_face(line);
    }

private:
    [[noreturn]] void refuse(const char* what) const {
        throw std::runtime_error("line " + std::to_string(number_) + ": " + what);
    }
    void take_corner(std::string_view line) {
        kept += 'v';
        for (int k = 0; k < 3; k++) {
            const std::string_view word = next_word(line);
            float value = 0;
            const auto read = std::from_chars(word.data(), word.data() + word.size(), value);
            if (word.empty() || read.ptr != word.data() + word.size() || read.ec != std::errc{} ||
                !std::isfinite(value))
                refuse("a corner is v and three finite numbers (m)");
            kept += ' ', kept += word;
        }
        kept += '\n', corners_++;
    }
    // Of 2/7/3 only the 2 is kept: the number of a corner, from 1, or from -1 back.
    void take_face(std::string_view line) {
        kept += 'f';
        int count = 0;
        for (std::string_view word = next_word(line); !word.empty(); word = next_word(line), count++) {
            const std::string_view number = word.substr(0, word.find('/'));
            long value = 0;
            const auto read = std::from_chars(number.data(), number.data() + number.size(), value);
            if (read.ptr != number.data() + number.size() || read.ec != std::errc{} || value == 0 ||
                value > corners_ || value < -corners_)
                refuse("a face names corners that stand above it, from 1, or from -1 back");
            kept += ' ', kept += std::to_string(value > 0 ? value : corners_ + 1 + value);
        }
        if (count < 3) refuse("a face has three corners or more");
        kept += '\n';
    }

    std::size_t number_ = 0;
    long corners_ = 0;
};

}

TriangleMesh read_obj_text(const std::string& text) {
    Sieve sieve;
    for (std::string_view rest = text; !rest.empty();) {
        const std::string_view line = rest.substr(0, rest.find('\n'));
        sieve.take(line);
        rest.remove_prefix(std::min(line.size() + 1, rest.size()));
    }
    tinyobj::ObjReaderConfig config;
    config.triangulate = true;
    tinyobj::ObjReader reader;
    if (!reader.ParseFromString(sieve.kept, "", config))
        throw std::runtime_error("cannot be read as OBJ: " + reader.Error());
    const auto& at = reader.GetAttrib().vertices;
    std::vector<Vec3> corners;
    corners.reserve(at.size() / 3);
    for (std::size_t i = 0; i + 2 < at.size(); i += 3) corners.push_back({at[i], at[i + 1], at[i + 2]});
    std::vector<TriangleMesh::Triangle> triangles;
    for (const auto& shape : reader.GetShapes()) {
        const auto& indices = shape.mesh.indices;
        for (std::size_t i = 0; i + 2 < indices.size(); i += 3) {
            TriangleMesh::Triangle t{};
            for (std::size_t k = 0; k < 3; k++)
                t[k] = static_cast<std::uint32_t>(indices[i + k].vertex_index);
            triangles.push_back(t);
        }
    }
    if (triangles.empty()) throw std::runtime_error("has no faces");
    return TriangleMesh::of(corners, triangles);
}

TriangleMesh read_obj(const std::filesystem::path& path) {
    const std::string text = read_named_text(path); // which names the file if it refuses it
    try {
        return read_obj_text(text);
    } catch (const std::runtime_error& e) {
        throw std::runtime_error(path.string() + ": " + e.what());
    }
}

}
