#include "rooms/device_table.h"
#include "acoustics/polygon.h"
#include "catalogue/catalogue.h"
#include "dsp/number.h"
#include "dsp/text.h"
#include "loudspeaker/sheet/letters.h"
#include "model/address.h"
#include "model/history.h"
#include "rooms/plan_items.h"
#include <algorithm>
#include <array>
#include <set>
#include <utility>

namespace loom::project {
namespace {

enum class Is { none, id, name, model, room, address, x, y, z, use, asset, notes, across, rows, pitch, rowPitch, turn };

struct Column {
    Is is = Is::none;
    std::string head{};
    double metres = 1;
};

using Cells = std::vector<std::string>;

// Small letters and digits only, so that "IP-Address" and "ip address" are one.
std::string key(const std::string& text) {
    std::string all;
    for (const char c : loudspeaker::sheet::folded(text))
        if ((c >= 'a' && c <= 'z') || (c >= '0' && c <= '9'))
            all += c;
    return all;
}

Column columnOf(const std::string& head) {
    static const std::array<std::pair<Is, std::vector<std::string>>, 16> words{{
        {Is::id, {"id", "key"}},
        {Is::name,
         {"name", "device", "devicename", "gerat", "geraet", "bezeichnung", "appareil", "nom", "dispositivo", "nombre",
          "nome", "apparaat", "naam"}},
        {Is::model, {"model", "modell", "modele", "modelo", "modello", "type", "typ", "tipo"}},
        {Is::room, {"room", "raum", "salle", "sala", "stanza", "ruimte", "lokaal", "location", "standort", "lieu"}},
        {Is::address,
         {"address", "ip", "ipaddress", "ipv4", "adresse", "ipadresse", "adresseip", "direccion", "direccionip",
          "indirizzo", "indirizzoip", "adres", "ipadres"}},
        {Is::x, {"x", "posx", "positionx"}},
        {Is::y, {"y", "posy", "positiony"}},
        {Is::z, {"z", "height", "hohe", "hoehe", "hauteur", "altura", "altezza", "hoogte", "posz", "positionz"}},
        {Is::use, {"use", "purpose", "verwendung", "usage", "uso", "gebruik"}},
        {Is::asset, {"asset", "assetnumber", "assetno", "inventar", "inventarnummer", "inventaire", "inventario"}},
        {Is::notes,
         {"notes", "note", "remarks", "remark", "bemerkung", "bemerkungen", "remarque", "remarques", "notas",
          "opmerking"}},
        {Is::across,
         {"seats", "seatsperrow", "seatsineach", "across", "platze", "plaetze", "sitze", "sitzejereihe", "places",
          "placesparrang", "sieges", "asientos", "asientosporfila", "posti", "postiperfila", "stoelen", "zitplaatsen",
          "stoelenperrij"}},
        {Is::rows, {"rows", "reihen", "rangs", "rangees", "filas", "file", "rijen"}},
        {Is::pitch, {"pitch", "seatpitch", "seattoseat", "sitzabstand", "entraxe"}},
        {Is::rowPitch, {"rowpitch", "rowtorow", "rowspacing", "reihenabstand", "rijafstand"}},
        {Is::turn, {"turn", "angle", "drehung", "winkel", "angolo", "angulo", "hoek"}},
    }};
    Column c;
    c.head = head;
    std::string word = head, unit;
    if (const auto open = head.find_first_of("([/"); open != std::string::npos) { // "x [mm]"
        word = head.substr(0, open);
        unit = key(head.substr(open));
    }
    const std::string k = key(word);
    for (const auto& [is, all] : words)
        if (std::find(all.begin(), all.end(), k) != all.end())
            c.is = is;
    c.metres = unit == "mm" ? 0.001 : unit == "cm" ? 0.01 : unit == "ft" ? 0.3048 : 1;
    if (!unit.empty() && unit != "m" && c.metres == 1 && (c.is == Is::x || c.is == Is::y || c.is == Is::z))
        c.is = Is::none;
    return c;
}

// Rows of cells; quotes hold signs and line ends together, a quote in them is written twice (RFC 4180).
std::vector<Cells> rowsOf(const std::string& text, char sign) {
    std::vector<Cells> rows(1);
    std::string cell;
    bool quoted = false;
    const auto end = [&] {
        while (!cell.empty() && (cell.back() == ' ' || cell.back() == '\t'))
            cell.pop_back();
        cell.erase(0, std::min(cell.find_first_not_of(" "), cell.size()));
        rows.back().push_back(std::exchange(cell, {}).substr(0, 2000));
    };
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (quoted && c == '"' && i + 1 < text.size() && text[i + 1] == '"') {
            cell += '"';
            ++i;
        } else if (c == '"' && (quoted || cell.empty())) {
            quoted = !quoted;
        } else if (c == sign && !quoted) {
            end();
        } else if (c == '\n' && !quoted) {
            end();
            if (rows.size() > maxTableRows)
                break;
            rows.emplace_back();
        } else {
            cell += c == '\n' ? ' ' : c;
        }
    }
    end();
    std::erase_if(rows, [](const Cells& r) {
        return std::all_of(r.begin(), r.end(), [](const std::string& one) { return one.empty(); });
    });
    return rows;
}

const DeviceModel* modelOf(const Catalogue& models, const std::string& said) {
    if (const auto* m = models.find(said))
        return m;
    for (const auto& m : models.all())
        if (key(m.name) == key(said) || key(m.id) == key(said))
            return models.find(m.id);
    return nullptr;
}

class Table {
  public:
    Table(const Project& p, const Catalogue& models) : then_(p), models_(models) {}
    Result<Renewed> read(const std::vector<Cells>& rows) {
        for (const auto& head : rows.front())
            columns_.push_back(columnOf(head));
        const bool seats = has(Is::across) && has(Is::room);
        if (!seats && !has(Is::name) && !has(Is::id))
            return Error{
                "has no column of names", rows.front().front(),
                "Its first row names the columns: Name, Model, Room, Address, x, y, z; or Room, Rows, Seats, x, y."};
        std::set<Is> seen;
        for (auto& c : columns_)
            if (c.is == Is::none || !seen.insert(c.is).second) {
                if (!c.head.empty())
                    out_.list.push_back({"", "column " + c.head, "", "not taken"});
                c.is = Is::none;
            }
        for (std::size_t n = 1; n < rows.size(); ++n)
            seats ? seatsRow(rows[n], n + 1) : row(rows[n], n + 1);
        if (out_.buildings)
            out_.buildings = then_.buildings;
        return std::move(out_);
    }

  private:
    bool has(Is is) const {
        return std::any_of(columns_.begin(), columns_.end(), [&](const Column& c) { return c.is == is; });
    }
    std::string cell(const Cells& r, Is is) const {
        for (std::size_t k = 0; k < columns_.size() && k < r.size(); ++k)
            if (columns_[k].is == is)
                return r[k];
        return {};
    }
    void leave(const std::string& what, const std::string& why) {
        out_.list.push_back({"", what, "", "left out: " + why});
    }
    std::optional<double> metres(const Cells& r, Is is, const std::string& what) {
        const std::string typed = cell(r, is);
        if (typed.empty())
            return {};
        const auto n = typedNumber(typed);
        const double factor =
            std::find_if(columns_.begin(), columns_.end(), [&](const Column& c) { return c.is == is; })->metres;
        if (n.length != typed.size() || n.unsure || std::abs(n.value * factor) > 10000) {
            leave(what, "\"" + typed.substr(0, 40) + "\" is no length");
            return {};
        }
        return n.value * factor;
    }
    void row(const Cells& r, std::size_t number) {
        const std::string name = cell(r, Is::name), id = cell(r, Is::id);
        const std::string what = !name.empty() ? name : !id.empty() ? id : print("row %d", static_cast<int>(number));
        const Device* found = nullptr;
        for (const auto& d : then_.devices)
            if (!id.empty() ? d.id == id : !name.empty() && key(d.name) == key(name))
                found = &d;
        const auto room = roomOf(cell(r, Is::room), what);
        const auto x = metres(r, Is::x, what), y = metres(r, Is::y, what), z = metres(r, Is::z, what);
        Device d;
        if (found) {
            d = *found;
        } else {
            const std::string said = cell(r, Is::model);
            const auto* model = modelOf(models_, said);
            if (name.empty() || !model)
                return leave(what, name.empty()   ? "it has no name"
                                   : said.empty() ? "there is no such device, and it has no model"
                                                  : "the shelf has no model \"" + said.substr(0, 60) + "\"");
            acoustics::Spot spot{x.value_or(0), y.value_or(0)};
            if (const auto* in = then_.room(room); in && !(x && y))
                spot = acoustics::centreOf(in->outline);
            d = newDevices(then_, room, *model, {spot}).front();
            d.name = name.substr(0, 120);
            d.place.placed = d.place.placed && (!room.empty() || (x && y));
            out_.list.push_back(
                {d.id, name, "", "new: " + model->name + (room.empty() ? "" : " in " + then_.room(room)->name)});
        }
        const auto change = [&](std::string& field, const std::string& value, const char* word) {
            if (value.empty() || value == field)
                return;
            if (found || field.empty())
                out_.list.push_back({d.id, what + ", " + word, field, value});
            field = value;
        };
        if (found && !room.empty() && d.room != room) {
            out_.list.push_back({d.id, what + ", room", d.room, then_.room(room)->name});
            d.room = room;
        }
        if (const std::string address = cell(r, Is::address); !address.empty()) {
            const auto other = std::find_if(then_.devices.begin(), then_.devices.end(), [&](const Device& one) {
                return one.id != d.id && one.address == address;
            });
            if (!isAddress(address))
                leave(what + ", address", "\"" + address.substr(0, 40) + "\" is none");
            else if (other != then_.devices.end())
                leave(what + ", address", address + " belongs to " + (*other).name);
            else
                change(d.address, address, "address");
        }
        change(d.use, cell(r, Is::use).substr(0, 60), "use");
        change(d.assetNumber, cell(r, Is::asset).substr(0, 60), "asset number");
        change(d.notes, cell(r, Is::notes), "notes");
        const auto move = [&](double& at, const std::optional<double>& to, const char* word) {
            if (!to || (found && std::abs(at - *to) < 1e-6 && d.place.placed))
                return;
            if (found)
                out_.list.push_back(
                    {d.id, what + ", " + word, d.place.placed ? shortText(at) + " m" : "", shortText(*to) + " m"});
            at = *to;
            d.place.placed = true;
        };
        if (d.place.rack.empty()) {
            move(d.place.x, x, "x");
            move(d.place.y, y, "y");
            move(d.place.z, z, "z");
        } else if (x || y || z) {
            leave(what + ", place", "it is in a rack");
        }
        if (found && *found == d)
            return;
        out_.devices[d.id] = d;
        if (auto* now = then_.device(d.id))
            *now = d;
        else
            then_.devices.push_back(d);
    }
    void seatsRow(const Cells& r, std::size_t number) {
        const std::string what = print("row %d", static_cast<int>(number));
        const auto* room = then_.room(roomOf(cell(r, Is::room), what));
        if (!room)
            return cell(r, Is::room).empty() ? leave(what, "it has no room") : void();
        const auto before = then_;
        Seats seats;
        const auto middle = acoustics::centreOf(room->outline);
        seats.x = metres(r, Is::x, what).value_or(middle[0]);
        seats.y = metres(r, Is::y, what).value_or(middle[1]);
        const std::string said = room->name; // the edit makes new rooms
        std::string made;
        Edit edit = addSeats(then_, room->id, seats, &made);
        (void)History(then_).run(std::move(edit));
        for (const auto& [is, field] : {std::pair{Is::across, "across"},
                                        {Is::rows, "rows"},
                                        {Is::pitch, "pitch"},
                                        {Is::rowPitch, "rowPitch"},
                                        {Is::turn, "turn"}}) {
            std::string typed = cell(r, is);
            if (typed.empty() && is != Is::across)
                continue;
            if (is == Is::pitch || is == Is::rowPitch) {
                const auto m = metres(r, is, what);
                typed = m ? shortText(*m) : "";
            }
            auto changed = setField(then_, {made}, field, typed);
            if (!changed) {
                then_ = before;
                return leave(what, changed.error().text());
            }
            if (*changed)
                (void)History(then_).run(std::move(*changed));
        }
        for (const auto& s : then_.room(made.substr(6, made.find('/') - 6))->seats)
            if (made.ends_with("/" + s.id))
                out_.list.push_back({"", what, "", print("%d rows of %d seats in ", s.rows, s.across) + said});
        out_.buildings = then_.buildings;
    }
    std::string roomOf(const std::string& said, const std::string& what) {
        if (said.empty())
            return {};
        for (const auto& b : then_.buildings)
            for (const auto& r : b.rooms)
                if (r.id == said || key(r.name) == key(said))
                    return r.id;
        leave(what + ", room", "there is no room \"" + said.substr(0, 60) + "\"");
        return {};
    }
    Project then_;
    const Catalogue& models_;
    std::vector<Column> columns_;
    Renewed out_;
};

} // namespace

Edit Renewed::edit(const std::string& text) const {
    std::vector<Edit> edits;
    if (buildings)
        edits.push_back(setBuildings(*buildings, text));
    if (!devices.empty())
        edits.push_back(setDevices(devices, text));
    if (edits.empty())
        return {};
    return edits.size() == 1 ? std::move(edits.front()) : together(std::move(edits), text);
}

Result<Renewed> devicesOfTable(const Project& project, const Catalogue& models, const std::string& bytes) {
    if (bytes.size() > maxTableBytes)
        return Error{"is larger than 4 MiB", "the table", "A list of devices has some hundred rows."};
    const std::string text = utf8Of(bytes);
    const std::string first = text.substr(0, text.find('\n'));
    const char sign = first.find('\t') != std::string::npos ? '\t' : first.find(';') != std::string::npos ? ';' : ',';
    const auto rows = rowsOf(text, sign);
    if (rows.size() < 2 || rows.front().size() < 2)
        return Error{"is no table", "what was copied", "Copy the rows with the one above them that names the columns."};
    if (rows.size() > maxTableRows)
        return Error{"has more than 20000 rows", "the table", "Copy fewer."};
    return Table(project, models).read(rows);
}

} // namespace loom::project
