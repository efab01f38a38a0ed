// astasis run SCENE: steps a scene headless, prints a summary, writes tables and a picture.
#include "tool/command.h"
#include "tool/session.h"

#include <fmt/core.h>

#include <memory>

namespace astasis::tool {
void add_run(Commands& commands) {
    auto wishes = std::make_shared<Wishes>();
    auto file = std::make_shared<std::string>();
    Options run = commands.add("run", "Step a scene to its end and print what happened");
    run.footer(
        "Examples:\n"
        "  astasis run scenes/parcel_chute.json --picture chute.png\n"
        "  astasis run scenes/two_pucks.json --watch \"light puck\" --every 0.1\n"
        "  astasis run scenes/mixed_goods.json --contacts --at 2\n"
        "  astasis run scenes/tile_floor.json --impacts --duration 1\n"
        "  astasis run scenes/light_barrier.json --events --least-speed 1\n"
        "  astasis run scenes/tote_bin.json --seed 3 --duration 5 --csv bin.csv\n"
        "Exit status: 0 done, 2 the call, the scene or an output is at fault (nothing is written then).");
    run.scene(*file);
    add_settings(run, wishes->settings);
    run.texts("--watch", wishes->watch,
              {"NAME", "Print a table of a body's pose and velocities; may be given again"});
    run.number(
        "--every", wishes->every, {0, 1e6, "seconds, 0 or more"},
        {"SECONDS",
         "Seconds between rows of --watch (a twentieth of the run), --csv and --measures-csv (every tick)"});
    run.text("--csv", wishes->csv, {"FILE", "Write poses and velocities of all bodies, tick by tick"});
    run.text("--measures-csv", wishes->measures_csv,
             {"FILE", "Write energy, momentum, penetration, contacts and time of each tick"});
    run.flag("--contacts", wishes->contacts, "Print the contacts of the last tick");
    run.text("--contacts-csv", wishes->contacts_csv, {"FILE", "Write the contacts of the last tick"});
    run.flag("--events", wishes->events,
             "Print what happened: touches, impacts, sensors, sleep, broken joints");
    run.text("--events-csv", wishes->events_csv, {"FILE", "Write the events of the run"});
    run.flag("--impacts", wishes->impacts, "Print when, where, with what normal and how fast bodies met");
    run.text("--impacts-csv", wishes->impacts_csv, {"FILE", "Write the impacts of the run"});
    run.number("--least-speed", wishes->least_speed, {0, 1e6, "m/s, 0 or more"},
               {"SPEED", "Leave out slower impacts, m/s (0.1)"});
    run.number("--at", wishes->at, {0, 1e6, "seconds, 0 or more"},
               {"SECONDS", "Draw, or list the contacts of, this moment instead of the last tick"});
    add_looks(run, wishes->looks);
    run.work([=] { fmt::print("{}", carry_out(scene::read_scene(*file), *wishes)); });
}

}
