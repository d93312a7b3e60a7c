// The deck of Surfaces: the chosen controls as fields, and colours; or the page, its ply and the surface.
#pragma once
#include "app/surfaces/surfaces_state.h"
#include <QWidget>

class QLabel;

namespace loom::app {

class ColourCard;
class FieldForm;
class RowOrTabs;

class SurfacesDeck : public QWidget {
    Q_OBJECT
  public:
    explicit SurfacesDeck(SurfacesState& state, QWidget* parent = nullptr);
    void takeFocus();

  signals:
    void wantsBack();

  private:
    FieldForm* form(const char* id, const std::vector<std::string>& fields);
    void refresh();
    SurfacesState& state_;
    QLabel* title_;
    RowOrTabs *ofControls_, *ofPage_;
    std::vector<FieldForm*> forms_;
    ColourCard* colours_;
};

// Colours at a press: of threads, and those on this page; by lightness, chroma and hue.
class ColourCard : public QWidget {
    Q_OBJECT
  public:
    explicit ColourCard(SurfacesState& state, QWidget* parent = nullptr);
    QSize sizeHint() const override;
    QRectF swatch(int which) const; // threads first, then those of the page
    std::vector<project::Colour> all() const;

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    void take(int which);
    SurfacesState& state_;
    int current_ = 0;
    int what_ = 0; // fill, accent, text, edge
    QRectF tab(int which) const;
};

} // namespace loom::app
