// Putting the bench together.
#include "app/bench.h"

#include <QCloseEvent>
#include <QFileDialog>
#include <QMenu>
#include <QMessageBox>
#include <QShortcut>
#include <QSplitter>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/examples_sheet.h"
#include "app/theme.h"

namespace bronvel {

Bench::Bench(Clock clock, QWidget* parent) : QWidget(parent), session_(std::move(clock)) {
  setWindowTitle("Bronvel");
  resize(1280, 800);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  header_ = new Header(session_, this);
  column->addWidget(header_);
  auto* upper = new QSplitter(Qt::Horizontal);
  desk_ = new Desk(session_, upper);
  stage_ = new Stage(session_, upper);
  upper->addWidget(desk_);
  upper->addWidget(stage_);
  upper->setHandleWidth(1);
  upper->setStretchFactor(0, 0);
  upper->setStretchFactor(1, 1);
  upper->setSizes({452, 828});
  deck_ = new Deck(session_, this);
  auto* whole = new QSplitter(Qt::Vertical, this);
  whole->addWidget(upper);
  whole->addWidget(deck_);
  whole->setHandleWidth(1);
  whole->setStretchFactor(0, 1);
  whole->setStretchFactor(1, 0);
  whole->setSizes({492, 262});
  column->addWidget(whole, 1);

  card_ = new Card(session_, stage_);
  keep_ = new KeepPanel(session_, stage_);
  hint_ = new QLabel("drag turns · right drag moves · wheel zooms · F chosen · A all", stage_);
  hint_->setFont(theme::words(11));
  hint_->setStyleSheet("color: " + theme::faint_ink.name() + "; background: transparent");
  hint_->adjustSize();
  hint_->setAttribute(Qt::WA_TransparentForMouseEvents);
  connect(stage_, &Stage::drawn_plainly, hint_, [this] {
    hint_->setText(hint_->text() + " · no graphics hardware: plain shadows");
    hint_->adjustSize();
  });
  notice_ = new QFrame(stage_);
  notice_->setObjectName("notice");
  notice_->setStyleSheet("#notice { background: #FAE9E2; border: 1px solid " + theme::accent.name() +
                         "; border-radius: 8px; }");
  auto* notice_row = new QHBoxLayout(notice_);
  notice_row->setContentsMargins(12, 8, 8, 8);
  notice_text_ = new QLabel(notice_);
  notice_text_->setObjectName("notice_text");
  notice_text_->setWordWrap(true);
  notice_text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  notice_row->addWidget(notice_text_, 1);
  auto* close = new QToolButton(notice_);
  close->setText("✕");
  close->setToolTip("close this notice");
  connect(close, &QToolButton::clicked, notice_, &QFrame::hide);
  notice_row->addWidget(close, 0, Qt::AlignTop);
  notice_->hide();
  stage_->installEventFilter(this);
  card_->installEventFilter(this);
  keep_->installEventFilter(this);
  stage_->tools()->installEventFilter(this);

  connect(header_, &Header::open_asked, this, [this] {
    const QString folder = QFileDialog::getExistingDirectory(this, "Open a scene folder", session_.path());
    if (!folder.isEmpty()) open(folder);
  });
  examples_ = new ExamplesSheet(this);
  connect(header_, &Header::examples_asked, this, [this] {
    examples_->setGeometry(rect().adjusted(120, 70, -120, -60));
    examples_->open();
  });
  connect(examples_, &ExamplesSheet::picked, this, &Bench::open);
  add_ = new QToolButton(stage_);
  add_->setObjectName("add_body");
  add_->setText("+ body");
  add_->setFont(theme::words(12, QFont::Medium));
  add_->setToolTip("puts a new body on what is in the middle of the view");
  add_->setPopupMode(QToolButton::InstantPopup);
  add_->setStyleSheet("QToolButton { background: rgba(251, 249, 244, 235); border: 1px solid " + theme::rule.name() +
                      "; border-radius: 13px; padding: 3px 12px; } QToolButton::menu-indicator { image: none; }");
  auto* add_menu = new QMenu(add_);
  const std::pair<const char*, Shape> shapes[] = {{"ball", Sphere{0.4}},
                                                  {"box", Box{{0.8, 0.8, 0.8}}},
                                                  {"cask", Cylinder{0.3, 0.8}},
                                                  {"cone", Cone{0.4, 0.8}},
                                                  {"capsule", Capsule{0.25, 0.6}}};
  for (const auto& [word, shape] : shapes)
    add_menu->addAction(word, this, [this, stem = std::string(word), made = shape] {
      const auto place = stage_->place_at({stage_->width() / 2.0, stage_->height() / 2.0});
      session_.add_body(stem, made, place.value_or(stage_->camera().view.target));
    });
  add_->setMenu(add_menu);
  connect(&session_, &Session::play_state_changed, this,
          [this] { add_->setVisible(session_.play_state() == Session::PlayState::editing); });
  connect(header_, &Header::save_asked, this, &Bench::save);
  connect(deck_->log(), &LogPage::line_chosen, desk_, &Desk::go_to);
  connect(deck_->snags(), &SnagsPage::line_chosen, desk_, &Desk::go_to);
  const auto shortcut = [this](const QKeySequence& key, auto&& act) {
    connect(new QShortcut(key, this), &QShortcut::activated, this, act);
  };
  shortcut(QKeySequence::Save, [this] { save(); });
  shortcut(QKeySequence::Find, [this] { desk_->find(); });
  shortcut(QKeySequence::Open, [this] { emit header_->open_asked(); });
  shortcut(QKeySequence(Qt::CTRL | Qt::Key_Z), [this] { session_.undo(); });
  shortcut(QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z), [this] { session_.redo(); });

  // The screen asks for what the play did at its own pace; the play never waits for it.
  screen_timer_.setInterval(16);
  connect(&screen_timer_, &QTimer::timeout, &session_, &Session::refresh);
  connect(&session_, &Session::play_state_changed, this, [this] {
    if (session_.play_state() == Session::PlayState::playing)
      screen_timer_.start();
    else
      screen_timer_.stop();
  });
}

Bench::~Bench() = default;

bool Bench::open(const QString& path) {
  try {
    session_.open(path);
    notice_->hide();
    setWindowTitle(QString::fromStdString(session_.scene().name) + " · Bronvel");
    place_overlays();
    return true;
  } catch (const std::exception& e) {
    show_fault("This scene can't be opened.", e.what());
    return false;
  }
}

bool Bench::save() {
  try {
    session_.save();
    return true;
  } catch (const std::exception& e) {
    show_fault("Not saved.", e.what());
    return false;
  }
}

void Bench::show_fault(const QString& title, const QString& text) {
  notice_text_->setText("<b>" + title.toHtmlEscaped() + "</b><br>" + text.toHtmlEscaped());
  notice_->show();
  place_overlays();
}

void Bench::place_overlays() {
  card_->adjustSize();
  card_->move(stage_->width() - card_->width() - 14, 14);
  stage_->set_covered_right(card_->isVisible() ? card_->width() + 14 : 0);
  keep_->adjustSize();
  keep_->move(16, 14);
  const int room = stage_->width() - card_->width() - 60;
  notice_->setFixedWidth(std::max(260, std::min(520, room)));
  notice_->adjustSize();
  notice_->move(16, keep_->isVisible() ? keep_->geometry().bottom() + 10 : 14);
  notice_->raise();
  add_->adjustSize();
  add_->move(14, stage_->height() - add_->height() - 30);
  hint_->move(14, stage_->height() - hint_->height() - 8);
  stage_->tools()->adjustSize();
  stage_->tools()->move(14, stage_->height() - stage_->tools()->height() - 26);
}

void Bench::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  place_overlays();
}

bool Bench::eventFilter(QObject* watched, QEvent* event) {
  const bool resized =
      event->type() == QEvent::Resize || event->type() == QEvent::LayoutRequest || event->type() == QEvent::Show;
  if (resized) place_overlays();
  return QWidget::eventFilter(watched, event);
}

void Bench::closeEvent(QCloseEvent* event) {
  if (session_.saved() && session_.pending().empty()) {
    event->accept();
    return;
  }
  QMessageBox box(this);
  box.setWindowTitle("Bronvel");
  box.setText(session_.saved() ? "There are values from play that are neither kept nor dropped."
                               : "The scene or a script is not saved.");
  box.setInformativeText("Close now and they are lost.");
  auto* save_button = session_.saved() ? nullptr : box.addButton("Save and close", QMessageBox::AcceptRole);
  auto* lose = box.addButton("Close and lose them", QMessageBox::DestructiveRole);
  box.addButton("Go back", QMessageBox::RejectRole);
  box.exec();
  const bool close = box.clickedButton() == lose || (save_button && box.clickedButton() == save_button && save());
  close ? event->accept() : event->ignore();
}

}  // namespace bronvel
