// Device models: data files in catalogue/, made-up makers, and the user's own.
#pragma once
#include "catalogue/device_model.h"
#include <deque>
#include <memory>
#include <optional>
#include <shared_mutex>
#include <string>
#include <vector>

namespace loom::project {

// The models that are known, by id. It only grows, and what it gave stays where it is while it lives; whatever has a
// ModelSource keeps it alive. Threads may look models up while one is added.
class Catalogue : public std::enable_shared_from_this<Catalogue> {
  public:
    static std::shared_ptr<Catalogue> of(std::vector<DeviceModel> models);
    Catalogue(const Catalogue&) = delete;
    Catalogue& operator=(const Catalogue&) = delete;
    const DeviceModel* find(const std::string& id) const;          // null: it has it not
    const std::deque<DeviceModel>& all() const { return models_; } // not while another thread adds one
    // Takes a model file into the user's own (modelFolder) and in here. Gives its id. Error: it is none, or its id is
    // taken.
    Result<std::string> add(const std::string& text, const std::string& name);

  private:
    Catalogue() = default;
    void keep(DeviceModel model);
    std::deque<DeviceModel> models_{};
    mutable std::shared_mutex lock_{};
};

// The catalogue that belongs to this build ($NIMBLE_LOOM_DATA, else the installed one, else the source tree's) with the
// user's own models.
std::shared_ptr<Catalogue> openCatalogue();
// One model from JSON text. Error: names the file and the field.
Result<DeviceModel> readModel(const std::string& text, const std::string& name);
// Reads every .json of a folder. Files that are no models are told in `errors`, or else are the error.
Result<std::vector<DeviceModel>> readCatalogue(const std::string& folder, std::vector<Error>* errors = nullptr);
std::string modelFolder(); // the user's own models: $XDG_DATA_HOME/nimble-loom/models
std::string dataFolder();  // where catalogue/ and demo/ lie

} // namespace loom::project
