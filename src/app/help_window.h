// Help that is there without a network: first steps, a glossary, how each check is computed, keys, and what
// is new; searched by words.
#pragma once
#include "app/model/session.h"
#include <QLineEdit>
#include <QListWidget>
#include <QTextBrowser>

namespace ng::app {

struct HelpTopic {
    QString id, title, html, plain; ///< plain: what is searched
};
/// Of data/help/help.json and the list of changes. Refuses a damaged file by its item.
Result<QList<HelpTopic>> help_topics(const Library& library);

class HelpWindow : public QWidget {
    Q_OBJECT
  public:
    HelpWindow(Session& session, QWidget* parent);
    /// The topic that these words are most likely about: a check's id, a term, words of a control. False:
    /// none.
    bool show_about(const QString& words);
    void search(const QString& words);
    QString shown() const { return shown_; }
    QListWidget* list() { return list_; }

  private:
    class Text;
    void choose(int row);
    void restyle();
    Session& session_;
    QList<HelpTopic> topics_;
    QString shown_;
    QLineEdit* search_;
    QListWidget* list_;
    QTextBrowser* text_;
};

} // namespace ng::app
