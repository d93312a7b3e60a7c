// Maps and grids, as Survey and loomctl work them out.
#ifndef Q_MOC_RUN
#include "acoustics/map.h"
#include "catalogue/catalogue.h"
#include "file/store.h"
#include "models.h"
#include "rooms/maps.h"
#include "rooms/room_edit.h"
#endif
#include "test.h"
#include <set>

using namespace loom;
using namespace loom::project;

class TestMaps : public QObject {
    Q_OBJECT
    Project demo_;
    SpaceModel tern_;

  private slots:
    void initTestCase() {
        const auto demo = test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        QVERIFY(bool(demo));
        demo_ = *demo;
        tern_ = modelOf(demo_, spaceOf(demo_.buildings[0], nullptr, "tern"), nullptr);
        QVERIFY(!tern_.loudspeakers.empty() && !tern_.microphones.empty());
    }
    void eachMapIsDeclaredOnce() {
        std::set<std::string> ids, names;
        for (const auto& s : mapSpecs()) {
            QVERIFY(ids.insert(s.id).second && names.insert(s.name).second);
            QVERIFY(mapSpec(s.kind) == &s && mapSpec(std::string(s.id)) == &s && s.step > 0 && s.range >= s.step);
        }
        QVERIFY(!mapSpec(MapKind::none) && !mapSpec(std::string("mood")));
    }
    // What a map says of a place is what the prediction says of it.
    void valuesAreThoseOfThePrediction() {
        const acoustics::Prediction prediction(tern_.field(tern_.neededDrive()));
        const double step = 1.3;
        const auto level = mapOf(tern_, MapKind::level, 5, step);
        QVERIFY(level.places.size() > 10 && level.values.size() == level.places.size() && level.step == step);
        const auto direct = acoustics::mapOf(prediction, level.places);
        const auto value = [&](MapKind kind, std::size_t i, int band = 5) {
            return mapOf(tern_, kind, band, step).values.at(i);
        };
        for (const std::size_t i : {std::size_t(0), level.places.size() / 2, level.places.size() - 1}) {
            QCOMPARE(level.values[i], static_cast<float>(direct[i].totalA));
            QCOMPARE(value(MapKind::direct, i), static_cast<float>(direct[i].directA));
            QCOMPARE(value(MapKind::band, i, 2), static_cast<float>(direct[i].total[2]));
            QCOMPARE(value(MapKind::clarity, i), static_cast<float>(direct[i].clarity));
            QCOMPARE(value(MapKind::sti, i), static_cast<float>(direct[i].sti));
            QCOMPARE(value(MapKind::stray, i), static_cast<float>(direct[i].totalA - 60));
            QCOMPARE(value(MapKind::loudest, i), static_cast<float>(direct[i].loudest));
        }
        QCOMPARE(mapOf(tern_, MapKind::loudest, 5, step).names.size(), tern_.loudspeakers.size());
    }
    void theScaleHoldsAllValuesInWholeSteps() {
        for (const auto& s : mapSpecs()) {
            const auto map = mapOf(tern_, s.kind, 5, 1);
            QCOMPARE(map.unit, std::string(s.unit));
            for (const float v : map.values)
                QVERIFY2(v >= map.least - 1e-6 && v <= map.most + 1e-6, s.id);
            QVERIFY2(map.most - map.least >= s.range - 1e-9, s.id);
            const double steps = map.most / s.step;
            QVERIFY2(std::abs(steps - std::round(steps)) < 1e-6, s.id);
            const double contours = (map.most - map.least) / contourOf(map);
            QVERIFY2(s.kind == MapKind::loudest || (contours > 2 && contours < 25), s.id);
        }
    }
    void aTalkerIsHeardBestAtTheMicrophone() {
        const auto map = mapOf(tern_, MapKind::pickUp, 5, 0.5);
        std::size_t best = 0;
        for (std::size_t i = 0; i < map.values.size(); ++i)
            if (map.values[i] > map.values[best])
                best = i;
        double nearest = 1e9;
        for (const auto& m : tern_.microphones)
            nearest = std::min(nearest, std::hypot(m.at[0] - map.places[best][0], m.at[1] - map.places[best][1]));
        QVERIFY2(nearest < 0.6, QByteArray::number(nearest));
    }
    void whereNothingSoundsThereIsNoMap() {
        auto silent = tern_;
        silent.loudspeakers.clear();
        QVERIFY(mapOf(silent, MapKind::level, 5, 1).values.empty() &&
                !mapOf(silent, MapKind::pickUp, 5, 1).values.empty());
        silent.microphones.clear();
        QVERIFY(mapOf(silent, MapKind::pickUp, 5, 1).values.empty());
        QVERIFY(mapOf(tern_, MapKind::none, 5, 1).values.empty());
        std::stop_source stop;
        stop.request_stop();
        QVERIFY(mapOf(tern_, MapKind::pickUp, 5, 1, stop.get_token()).values.empty());
    }
    void stepsMakeAboutSoManyPlaces() {
        for (const std::size_t wanted : {500, 8000}) {
            const auto places = mapPoints(tern_, mapStepFor(tern_, wanted)).size();
            const bool finest = mapStepFor(tern_, wanted) == 0.1;
            QVERIFY2(finest || (places > wanted * 0.8 && places < wanted * 1.25), QByteArray::number(places));
        }
        auto vast = tern_;
        vast.floorArea = 1e9;
        QCOMPARE(mapStepFor(vast, 500), 10.0);
    }
    void gridsAsTheyAreTyped() {
        const auto read = [](const char* text) { return *readGrid(text); };
        QVERIFY(read("6").by == GridBy::count && read("6").value == 6);
        QVERIFY(read(" 2.5 m ").by == GridBy::spacing && read("2,5m").value == 2.5);
        QVERIFY(read("30 %").by == GridBy::overlap && std::abs(read("30%").value - 0.3) < 1e-12);
        for (const char* none : {"", "m", "six", "2 ft", "6 6", "30 % m", "1,000"})
            QVERIFY2(!readGrid(none), none);
    }
};

LOOM_TEST(tst_maps, TestMaps)
#include "tst_maps.moc"
