// The energy ledger on the stage: between two moments, who gave energy to what is chosen and who took it, as bars.
#pragma once

#include <QFrame>
#include <optional>

#include "app/session/session.h"
#include "lab/why/ledger.h"

namespace bronvel {

class LedgerBars;

class LedgerSheet : public QFrame {
  Q_OBJECT

 public:
  explicit LedgerSheet(Session& session, QWidget* parent = nullptr);
  /// Of this stretch (s) of the take; without one from its start to where the play head stands.
  void show_stretch(const std::optional<std::pair<double, double>>& stretch);
  void open(bool on);  ///< it is seen while another moment than now is looked at
  bool wanted() const { return wanted_; }
  const std::optional<Ledger>& ledger() const { return ledger_; }

 signals:
  void resized();
  void closed();

 private:
  void renew();

  Session& session_;
  bool wanted_ = false;
  std::optional<std::pair<double, double>> stretch_;
  std::optional<Ledger> ledger_;
  LedgerBars* bars_ = nullptr;
};

}  // namespace bronvel
