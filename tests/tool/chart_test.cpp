// astasis chart: what it draws of each table, and what it refuses.
#include "support/command.h"

#include <cmath>
#include <regex>

namespace astasis {
namespace {

class Chart : public test::InFolder {
protected:
    // A ball that falls from 20 m beside a crate, and a wall that stands.
    void SetUp() override {
        InFolder::SetUp();
        write("fall.json", R"({"astasis_scene": 1, "dimension": 2, "duration": 1, "bodies": [
            {"name": "wall", "motion": "static", "at": [50, 0], "shapes": [{"shape": "box", "size": [1, 1]}]},
            {"name": "the \"ball\", red", "at": [0, 20], "shapes": [{"shape": "circle", "radius": 0.5}]},
            {"name": "crate", "at": [5, 20], "velocity": [3, 4], "gravity_scale": 0, "shapes": [{"shape": "box", "size": [1, 1]}]}]})");
    }
    std::vector<std::pair<double, double>> block(const std::string& file, int number) const {
        std::istringstream in(read(file));
        std::vector<std::pair<double, double>> out;
        int at = -1;
        for (std::string line; std::getline(in, line);) {
            if (line.starts_with("#")) at++;
            else if (double x = 0, y = 0; at == number && std::istringstream(line) >> x >> y)
                out.emplace_back(x, y);
        }
        return out;
    }
};

TEST_F(Chart, EnergiesOfARunAreThoseOfMechanics) {
    ASSERT_EQ(astasis("run fall.json --measures-csv fall.csv").status, 0);
    const auto drawn = astasis("chart fall.csv --of kinetic,total --keep");
    EXPECT_EQ(drawn.status, 0) << drawn.out;
    EXPECT_NE(drawn.out.find("Energy over time"), std::string::npos) << drawn.out;
    EXPECT_NE(drawn.out.find("122 values"), std::string::npos) << drawn.out;
    EXPECT_EQ(read("fall.png").substr(1, 3), "PNG");
    const auto kinetic = block("fall.dat", 0), total = block("fall.dat", 1);
    ASSERT_EQ(kinetic.size(), 61u);
    const double ball = 1000 * 3.14159265 * 0.25, crate = 1000;
    for (const auto& [t, energy] : kinetic)
        EXPECT_NEAR(energy, 0.5 * ball * std::pow(9.81 * t, 2) + 0.5 * crate * 25, 30) << t;
    for (const auto& [t, energy] : total) EXPECT_NEAR(energy, total[0].second, 30) << t;
    // The script and data that are kept draw the same again.
    std::filesystem::remove(folder_ / "fall.png");
    EXPECT_EQ(shell("gnuplot fall.gnuplot").status, 0);
    EXPECT_EQ(read("fall.png").substr(1, 3), "PNG");
}

TEST_F(Chart, OfOneBodyOfAllAndOfWhatWasWatched) {
    ASSERT_EQ(astasis("run fall.json --csv bodies.csv").status, 0);
    const auto one = astasis("chart bodies.csv --body 'the \"ball\", red' --keep --picture one.svg");
    EXPECT_EQ(one.status, 0) << one.out;
    EXPECT_NE(read("one.svg").find("<svg"), std::string::npos);
    for (const auto& [t, speed] : block("one.dat", 0)) EXPECT_NEAR(speed, 9.81 * t, 1e-4) << t;
    const auto all = astasis("chart bodies.csv --keep --picture all.png");
    EXPECT_NE(all.out.find("Speed of all 2 bodies over time"), std::string::npos) << all.out;
    EXPECT_NE(all.out.find("1 that never moves left out"), std::string::npos) << all.out;
    for (const auto& [t, mean] : block("all.dat", 0)) EXPECT_NEAR(mean, (5 + 9.81 * t) / 2, 1e-4) << t;
    for (const auto& [t, most] : block("all.dat", 1)) EXPECT_NEAR(most, std::max(5.0, 9.81 * t), 1e-4) << t;
    ASSERT_EQ(shell(ASTASIS_COMMAND " run fall.json --watch crate --every 0.25 > watched.txt").status, 0);
    const auto watched = astasis("chart watched.txt --of x,y --from 0.2 --to 0.8 --keep");
    EXPECT_NE(watched.out.find("0.25 to 0.75 s, 6 values"), std::string::npos) << watched.out;
    EXPECT_NEAR(block("watched.dat", 1).back().second, 23, 1e-4);
}

// Bars hold all values; a gas that has mixed lies near Maxwell's law.
TEST_F(Chart, HistogramsAndMaxwellsLaw) {
    ASSERT_EQ(astasis("run " ASTASIS_SCENES "/air_table.json --csv air.csv --every 0.25").status, 0);
    const auto drawn = astasis("chart air.csv --of speed --law maxwell --bins 20 --from 4 --keep");
    EXPECT_EQ(drawn.status, 0) << drawn.out;
    const auto bars = block("air.dat", 0), law = block("air.dat", 1);
    ASSERT_EQ(bars.size(), 20u);
    double sum = 0, apart = 0, area = 0;
    for (const auto& bar : bars) {
        sum += bar.second;
        const auto near = std::min_element(law.begin(), law.end(), [&](const auto& p, const auto& q) {
            return std::fabs(p.first - bar.first) < std::fabs(q.first - bar.first);
        });
        apart += std::fabs(near->second - bar.second);
    }
    for (std::size_t k = 1; k < law.size(); k++)
        area += (law[k].first - law[k - 1].first) * law[k].second / (bars[1].first - bars[0].first);
    EXPECT_NEAR(sum, 100, 1e-3);
    EXPECT_NEAR(area, 100, 0.5);
    EXPECT_LT(apart, 15); // % of all values that are in another bar
}

TEST_F(Chart, OfImpactsIsAHistogram) {
    write("drop.json", R"({"astasis_scene": 1, "dimension": 3, "duration": 2, "bodies": [
        {"name": "floor", "motion": "static", "shapes": [{"shape": "half-space"}]},
        {"name": "ball", "at": [0, 5.5, 0], "shapes": [{"shape": "sphere", "radius": 0.5}]}]})");
    ASSERT_EQ(astasis("run drop.json --impacts-csv hits.csv --events-csv events.csv").status, 0);
    for (const char* table : {"hits.csv", "events.csv"}) {
        const auto drawn = astasis(std::string("chart ") + table + " --keep --picture c.png");
        EXPECT_NE(drawn.out.find("Speed, how often"), std::string::npos) << drawn.out;
        EXPECT_NE(drawn.out.find("9.9"), std::string::npos) << drawn.out; // sqrt(2 g 5 m)
    }
}

TEST_F(Chart, FaultsAreSaidAndLeaveNothing) {
    ASSERT_EQ(astasis("run fall.json --csv bodies.csv --measures-csv fall.csv").status, 0);
    write("empty.csv", "");
    write("other.csv", "a,b\n1,2\n");
    write("short.csv", "time_s,kinetic_J\n0,1\n1\n");
    write("words.csv", "time_s,kinetic_J\n0,many\n");
    write("none.csv", "time_s,kinetic_J\n");
    const auto before = files();
    const std::pair<const char*, const char*> faults[] = {
        {"chart", "chart wants the name of a table"},
        {"chart none", "none: there is no such file"},
        {"chart .", "is a folder"},
        {"chart empty.csv", "empty.csv: is empty"},
        {"chart other.csv", "holds no column time_s"},
        {"chart short.csv --of kinetic", "short.csv:3: given 1 cells, accepted: 2"},
        {"chart words.csv --of kinetic", "words.csv:2: kinetic_J: given \"many\", accepted: a number"},
        {"chart none.csv --of kinetic", "holds no value"},
        {"chart fall.csv --of kinetik", "did you mean kinetic?"},
        {"chart fall.csv --of kinetic,contacts", "kinetic is in J and contacts"},
        {"chart fall.csv --body crate", "--body goes with tables of bodies"},
        {"chart bodies.csv --body crat", "did you mean crate?"},
        {"chart bodies.csv --law gauss", "accepted: maxwell"},
        {"chart bodies.csv --of x --law maxwell", "goes with --of speed"},
        {"chart bodies.csv --bins 1", "a whole number from 2 to 1000"},
        {"chart bodies.csv --from 2 --to 1", "--to: given 1"},
        {"chart bodies.csv --picture c.gif", "c.gif"},
        {"chart bodies.csv --picture no/c.png", "no"},
        {"chart bodies.csv --picture bodies.csv", "bodies.csv"},
        {"chart fall.csv bodies.csv", "already has its table"},
    };
    for (const auto& [call, said] : faults) {
        const auto told = astasis(call);
        EXPECT_EQ(told.status, 2) << call << ": " << told.out;
        EXPECT_NE(told.out.find(said), std::string::npos) << call << ": " << told.out;
        EXPECT_EQ(files(), before) << call;
    }
    const auto missing = shell("PATH=/nowhere " ASTASIS_COMMAND " chart fall.csv 2>&1");
    EXPECT_EQ(missing.status, 2);
    EXPECT_NE(missing.out.find("apt install gnuplot-nox"), std::string::npos) << missing.out;
    EXPECT_EQ(files(), before);
    // Never over the table, by a link either.
    std::filesystem::create_symlink("bodies.csv", folder_ / "link.png");
    const auto over = astasis("chart bodies.csv --picture link.png");
    EXPECT_EQ(over.status, 2);
    EXPECT_NE(over.out.find("which is read"), std::string::npos) << over.out;
}

}
}
