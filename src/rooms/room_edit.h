// Changes of rooms and what stands in them, worked out as values: what an edit then puts into the project.
#pragma once
#include "catalogue/catalogue.h"
#include "model/edit.h"
#include "model/project.h"
#include "rooms/predict.h"
#include <set>

namespace loom::project {

// ---- rooms ----
// What a new room is made of until somebody says: plastered walls, a mineral ceiling, carpet.
const std::map<std::string, std::string>& usualFinishes();
// A room of that outline and the usual finishes at the end of a building (that of the id, else the last; made if there
// is none), with an id, a name
// and a colour of its own. Error: what is wrong with its shape.
Result<List<Building>> withRoom(const Project& project, acoustics::Outline outline, double height,
                                const std::string& name, std::string* id = nullptr, const std::string& building = {});
// The buildings with one room changed.
List<Building> withChanged(const Project& project, const std::string& room, const std::function<void(Room&)>& how);
// Everything of a room moved by so much: outline, seats, talkers, pieces, and the places of its devices.
void moveRoom(Room& room, double dx, double dy);
inline constexpr std::size_t longestName = 120;                            // of a room, bytes
std::set<std::string> idsOf(const Project& project);                       // of buildings, rooms and devices
std::string freeId(std::set<std::string>& taken, const std::string& name); // takes it
// The rooms that are devices' own: a device belongs to one room.
std::vector<const Device*> devicesOf(const Project& project, const std::string& room);

// ---- devices ----
// Names by a pattern: {room}, {use}, {model}, {n}. The first that nobody has; the id goes with it.
std::string freeName(const Project& project, const Device& device, const std::string& pattern,
                     const std::vector<Device>& beside = {});
// The first address of a subnet such as "10.20.4.0/24" that no device has; "" if it is full or no subnet.
std::string freeAddress(const Project& project, const std::string& subnet, const std::vector<Device>& beside = {});
// The subnet of a room: its own, or that of its devices, else 10.20.1.0/24.
std::string subnetOf(const Project& project, const Room& room);

// New devices of a model at spots of a room: named, addressed, at the height where such things are mounted, looking
// down from a ceiling, or at the middle of the room from a wall.
std::vector<Device> newDevices(const Project& project, const std::string& room, const DeviceModel& model,
                               const std::vector<acoustics::Spot>& spots);
// A new device of a model in the lowest free units of a rack. Error: it is full, or this is nothing for racks.
Result<Device> rackedDevice(const Project& project, const Rack& rack, const DeviceModel& model);
// Spots of a ceiling grid for a model by count, by spacing in m, or by overlap of coverage (0.3 = edges meet in the
// middle).
enum class GridBy { count, spacing, overlap };
struct GridWish {
    GridBy by = GridBy::count;
    double value = 0;
};
// "6" loudspeakers, "2.5 m" apart, "30 %" of overlap. Error: none of these.
Result<GridWish> readGrid(const std::string& text);
Result<std::vector<acoustics::Spot>> ceilingSpots(const Room& room, const DeviceModel& model, GridBy by, double value);

// What renaming, addressing or copying would do, to be approved: one line each.
struct Renewal {
    std::string device, what, before, after;
};
struct Renewed {
    std::map<std::string, std::optional<Device>> devices{};
    std::vector<Renewal> list{};
    std::optional<List<Building>> buildings{}; // if rooms change as well
    bool empty() const { return devices.empty() && !buildings; }
    Edit edit(const std::string& text) const; // null: there is nothing to do
};
Renewed renamed(const Project& project, const std::vector<std::string>& devices, const std::string& pattern);
// New addresses for those of the devices that have none, a bad one or one that others have; `all`: for every one.
Renewed addressed(const Project& project, const std::vector<std::string>& devices, const std::string& subnet, bool all);

// Settings of one device for others of its model: program, lamps, trim, delay. Error: none is of its model.
Result<std::map<std::string, std::optional<Device>>> pasteDevice(const Project& project, const Device& from,
                                                                 const std::vector<std::string>& to);

// ---- suggestions ----
struct Suggestion {
    std::string text, why; // "Twelve loudspeakers, 2.6 m apart", "86 % of the seats lie within ±3 dB now; 100 % then"
    std::map<std::string, std::optional<Device>> devices{};
};
// What would bring a space nearer its targets: a ceiling grid for even levels, heights of microphones, delays of
// loudspeakers. Each was predicted anew with the change; none that does not help.
std::vector<Suggestion> suggestionsOf(const Project& project, const std::string& room, const WallState* state,
                                      std::stop_token stop = {});

} // namespace loom::project
