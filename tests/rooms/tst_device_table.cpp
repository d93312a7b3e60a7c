// Device lists of spreadsheets: heads, rows that are known, rows that are new, and what is not taken.
#ifndef Q_MOC_RUN
#include "file/project_json.h"
#include "model/history.h"
#include "rooms/device_table.h"
#endif
#include "models.h"
#include "test.h"

using namespace loom;
using namespace loom::project;

class TestDeviceTable : public QObject {
    Q_OBJECT
    static Project demo() { return *test::load(LOOM_SOURCE_DIR "/demo/marram-point"); }
    static std::string told(const Renewed& r) {
        std::string all;
        for (const auto& l : r.list)
            all += l.what + "|" + l.before + "|" + l.after + "\n";
        return all;
    }

  private slots:
    void addressPlan() {
        const auto p = demo();
        const auto* a = p.device("tern-canopy");
        QVERIFY(a);
        const auto r = devicesOfTable(p, test::models(),
                                      "Ger\u00e4t\tIP-Adresse\tInventar\tSerial\n" + a->name +
                                          "\t10.99.1.7\tA-0017\tx\nNobody\t10.99.1.8\t\t\n");
        QVERIFY2(bool(r), r ? "" : r.error().text().c_str());
        QCOMPARE(r->devices.size(), std::size_t(1));
        const auto& then = *r->devices.at("tern-canopy");
        QVERIFY(then.address == "10.99.1.7" && then.assetNumber == "A-0017" && then.model == a->model);
        const auto list = told(*r);
        QVERIFY2(list.find("column Serial||not taken") != std::string::npos, list.c_str());
        QVERIFY(list.find("10.99.1.7") != std::string::npos && list.find("Nobody||left out") != std::string::npos);
        // The same again changes nothing; another's address and what is none are left out.
        auto now = p;
        QVERIFY(History(now).run(setDevices(r->devices, "table")));
        QVERIFY(devicesOfTable(now, test::models(), "Name,Address\n" + a->name + ",10.99.1.7\n")->devices.empty());
        std::string other;
        for (const auto& d : p.devices)
            if (!d.address.empty() && d.id != a->id)
                other = d.address;
        const auto taken = devicesOfTable(now, test::models(), "Name,Address\n" + a->name + "," + other + "\n");
        QVERIFY(taken->devices.empty() && told(*taken).find("belongs to") != std::string::npos);
        QVERIFY(
            told(*devicesOfTable(now, test::models(), "Name,Address\n" + a->name + ",10.99.1.777\n")).find("is none") !=
            std::string::npos);
    }
    void newDevicesOfAList() {
        const auto p = demo();
        const auto r = devicesOfTable(p, test::models(),
                                      "\"Name\";\"Modell\";\"Raum\";\"x [mm]\";\"y [mm]\";\"H\u00f6he (cm)\"\n"
                                      "\"Gast 1\";\"Bobbin C6\";\"Tern Room\";\"14500\";\"9250,5\";\"280\"\n"
                                      "\"Gast \"\"2\"\"\";bobbin-c6;tern;;;\n\"Gast 3\";\"No such\";;;;\n"
                                      "\"Gast 4\";bobbin-c6;Attic;1,000;2;\n;bobbin-c6;;;;\n");
        QVERIFY2(bool(r), r ? "" : r.error().text().c_str());
        QCOMPARE(r->devices.size(), std::size_t(3));
        const Device *first = nullptr, *second = nullptr;
        for (const auto& [id, d] : r->devices) {
            first = d->name == "Gast 1" ? &*d : first;
            second = d->name == "Gast \"2\"" ? &*d : second;
        }
        QVERIFY(first && second && first->model == "bobbin-c6" && first->room == "tern" && first->place.placed);
        QVERIFY(std::abs(first->place.x - 14.5) < 1e-9 && std::abs(first->place.y - 9.2505) < 1e-9 &&
                std::abs(first->place.z - 2.8) < 1e-9);
        QVERIFY(second->room == "tern" && second->place.placed && second->id != first->id);
        const auto list = told(*r);
        for (const char* says :
             {"no model \"No such\"", "no room \"Attic\"", "\"1,000\" is no length", "it has no name"})
            QVERIFY2(list.find(says) != std::string::npos, says);
        auto now = p;
        History history(now);
        QVERIFY(history.run(setDevices(r->devices, "table")));
        QCOMPARE(now.devices.size(), p.devices.size() + 3);
        QVERIFY(projectFromJson(toJson(now), test::models()));
        history.undo();
        QVERIFY(now.devices == p.devices);
    }
    void seatsOfAList() {
        const auto p = demo();
        const std::size_t before = p.room("tern")->seats.size();
        const auto r = devicesOfTable(p, test::models(),
                                      "Room\tRows\tSeats per row\tx\ty\tRow to row (cm)\tColour\n"
                                      "Tern Room\t4\t12\t3,5\t2\t105\tred\nTern Room\t\t6\t\t\t\t\n"
                                      "Attic\t1\t4\t\t\t\t\nTern Room\t2\t900\t\t\t\t\nTern Room\t2\t\t\t\t\t\n");
        QVERIFY2(bool(r), r ? "" : r.error().text().c_str());
        QVERIFY(r->devices.empty() && r->buildings);
        auto now = p;
        History history(now);
        QVERIFY(history.run(r->edit("seats")));
        const auto& seats = now.room("tern")->seats;
        QCOMPARE(seats.size(), before + 2);
        const auto& block = seats[before];
        QVERIFY(block.rows == 4 && block.across == 12 && block.x == 3.5 && block.y == 2 && block.rowPitch == 1.05);
        QVERIFY(seats[before + 1].rows == 1 && seats[before + 1].across == 6);
        const auto middle = acoustics::centreOf(now.room("tern")->outline);
        QVERIFY(seats[before + 1].x == middle[0] && seats[before + 1].y == middle[1]);
        const auto list = told(*r);
        for (const char* says : {"4 rows of 12 seats in Tern Room", "no room \"Attic\"", "row 5||left out",
                                 "row 6||left out", "column Colour||not taken"})
            QVERIFY2(list.find(says) != std::string::npos, (says + ("\n" + list)).c_str());
        history.undo();
        QVERIFY(now.buildings == p.buildings);
    }
    void noTable() {
        const Project p;
        const auto refuses = [&](const std::string& text) { return !devicesOfTable(p, test::models(), text); };
        QVERIFY(refuses("") && refuses("a\nb\n") && refuses("x,y\n1,2\n") && refuses("Name,Model\n"));
        QVERIFY(refuses(std::string(maxTableBytes + 1, 'x')));
        std::string many = "Name,Model\n";
        for (std::size_t n = 0; n < maxTableRows + 5; ++n)
            many += "a,b\n";
        QVERIFY(refuses(many));
    }
};

LOOM_TEST(tst_device_table, TestDeviceTable)
#include "tst_device_table.moc"
