// astasis run SCENE: steps a scene headless, prints a summary, writes tables and a picture.
#include "tool/checks.h"
#include "tool/command.h"
#include "tool/session.h"

#include <CLI/CLI.hpp>
#include <fmt/core.h>

#include <memory>

namespace astasis::tool {
void add_run(CLI::App& app) {
    auto wishes = std::make_shared<Wishes>();
    auto file = std::make_shared<std::string>();
    CLI::App* run = app.add_subcommand("run", "Step a scene to its end and print what happened");
    run->footer(
        "Examples:\n"
        "  astasis run scenes/parcel_chute.json --picture chute.png\n"
        "  astasis run scenes/two_pucks.json --watch \"light puck\" --every 0.1\n"
        "  astasis run scenes/mixed_goods.json --contacts --at 2\n"
        "  astasis run scenes/tile_floor.json --impacts --duration 1\n"
        "  astasis run scenes/light_barrier.json --events --least-speed 1\n"
        "  astasis run scenes/tote_bin.json --seed 3 --duration 5 --csv bin.csv\n"
        "Exit status: 0 done, 2 the call, the scene or an output is at fault (nothing is written then).");
    run->add_option("scene", *file, "Scene file (JSON, see docs/scene-format.md)")
        ->required()
        ->type_name("SCENE");
    add_settings(*run, wishes->settings);
    run->add_option("--watch", wishes->watch,
                    "Print a table of a body's pose and velocities; may be given again")
        ->type_name("NAME")
        ->allow_extra_args(false);
    run->add_option("--every", wishes->every,
                    "Seconds between rows of --watch (a twentieth of the run) and --csv (every tick)")
        ->check(number_between(0, 1e6, "seconds, 0 or more"))
        ->type_name("SECONDS");
    run->add_option("--csv", wishes->csv, "Write poses and velocities of all bodies, tick by tick")
        ->type_name("FILE");
    run->add_flag("--contacts", wishes->contacts, "Print the contacts of the last tick");
    run->add_option("--contacts-csv", wishes->contacts_csv, "Write the contacts of the last tick")
        ->type_name("FILE");
    run->add_flag("--events", wishes->events,
                  "Print what happened: touches, impacts, sensors, sleep, broken joints");
    run->add_option("--events-csv", wishes->events_csv, "Write the events of the run")->type_name("FILE");
    run->add_flag("--impacts", wishes->impacts,
                  "Print when, where, with what normal and how fast bodies met");
    run->add_option("--impacts-csv", wishes->impacts_csv, "Write the impacts of the run")->type_name("FILE");
    run->add_option("--least-speed", wishes->least_speed, "Leave out slower impacts, m/s (0.1)")
        ->check(number_between(0, 1e6, "m/s, 0 or more"))
        ->type_name("SPEED");
    run->add_option("--at", wishes->at, "Draw, or list the contacts of, this moment instead of the last tick")
        ->check(number_between(0, 1e6, "seconds, 0 or more"))
        ->type_name("SECONDS");
    add_looks(*run, wishes->looks);
    run->callback([=] { fmt::print("{}", carry_out(scene::read_scene(*file), *wishes)); });
}

}
