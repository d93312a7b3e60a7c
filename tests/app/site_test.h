// What tests of Site share: a rig of devices, a window on Site, clicks.
#pragma once
#include "app/site/differences_table.h"
#include "app/site/embedded_rig.h"
#include "app/site/pairing_view.h"
#include "app/site/site_page.h"
#include "models.h"
#ifndef Q_MOC_RUN
#include "file/project_json.h"
#endif
#include "window_test.h"

using namespace loom;
using namespace loom::app;
using site::Take;

class SiteTest : public WindowTest {
  protected:
    std::unique_ptr<EmbeddedRig> rig_;
    std::unique_ptr<QTemporaryDir> store_;

    SitePage* page() { return view<SitePage>(); }
    Fleet& fleet() { return page()->fleet(); }
    const Fleet::Member* member(const std::string& id) { return std::as_const(fleet()).member(id); }
    bool up(const std::string& id) { return member(id) && member(id)->link.up() && member(id)->config; }
    bool same(const std::string& id) { return up(id) && member(id)->rows.empty() && member(id)->runningRevision() > 0; }
    bool well(const std::string& id) {
        const auto it = session().health().find(id);
        return it != session().health().end() && it->second.health == project::Health::good;
    }
    void fault(const std::string& serial, const std::string& name, const nlohmann::json& value) {
        rig_->with([&](rig::Rig& r) {
            const auto done = r.setFault(serial, name, value);
            QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        });
    }
    void step(const std::string& name) {
        rig_->with([&](rig::Rig& r) { QVERIFY(bool(r.step(name))); });
    }
    void click(const QString& name, int wait = 10000) {
        QTRY_VERIFY2_WITH_TIMEOUT(page()->findChild<QPushButton*>(name) &&
                                      page()->findChild<QPushButton*>(name)->isVisible() &&
                                      page()->findChild<QPushButton*>(name)->isEnabled(),
                                  qPrintable(name), wait);
        QTest::mouseClick(page()->findChild<QPushButton*>(name), Qt::LeftButton);
    }
    // A rig of small devices for what does not need the whole first day.
    void smallRig(int taps) {
        std::vector<rig::DeviceSetup> devices;
        project::Project p;
        p.name = "Taps";
        for (int i = 0; i < taps; ++i) {
            rig::DeviceSetup d;
            d.models = test::models();
            d.model = "tap", d.serial = "T" + std::to_string(i), d.folder = store_->path().toStdString();
            d.address = "127.20.4." + std::to_string(60 + i);
            devices.push_back(d);
            project::Device planned;
            planned.models = test::models();
            planned.id = "tap-" + std::to_string(i), planned.name = "Tap " + std::to_string(i), planned.model = "tap";
            planned.address = "127.20.4." + std::to_string(160 + i);
            p.devices.push_back(planned);
        }
        rig_ = std::make_unique<EmbeddedRig>(test::models(), devices);
        open(p, "taps");
        click("Look again");
        QTRY_COMPARE_WITH_TIMEOUT(fleet().found().size(), static_cast<std::size_t>(taps), 10000);
        for (int i = 0; i < taps; ++i) // the view hears of them a little later
            QTRY_VERIFY_WITH_TIMEOUT(!page()->pairing()->foundEnd("T" + std::to_string(i)).isNull(), 5000);
    }
    bool wrong(const std::string& code) {
        const auto all = fleet().findings();
        return std::any_of(all.begin(), all.end(), [&](const auto& f) { return f.id() == code; });
    }
    void choose(const std::string& device) {
        const auto at = page()->pairing()->plannedEnd(device) - QPointF(40, 0);
        QTest::mouseClick(page()->pairing()->viewport(), Qt::LeftButton, {}, at.toPoint());
        QCOMPARE(page()->pairing()->chosen(), std::vector<std::string>{device});
    }
    void pickSide(const std::string& device, const std::string& key, Take side) {
        auto* t = page()->differences()->table();
        const int row = page()->differences()->rowOf(device, key);
        QVERIFY2(row >= 0, key.c_str());
        const auto at = t->model()->index(row, DifferencesTable::takeColumn);
        t->scrollTo(at);
        const QRect cell = t->visualRect(at);
        QTest::mouseClick(t->viewport(), Qt::LeftButton, {},
                          {cell.left() + (side == Take::device ? 100 : 30), cell.center().y()});
    }
    void beginSite() {
        store_ = std::make_unique<QTemporaryDir>();
        begin("site");
    }
    void endSite() {
        end();
        rig_.reset();
    }
};
