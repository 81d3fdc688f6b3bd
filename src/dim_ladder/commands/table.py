"""Every action once: id, text, shortcut, menu, what it does. Menus, search, help, shortcut sheet and tests read it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Action:
    """menu : "" for actions of the board, which work while it has the keys. needs : what must be there to use it."""

    id: str
    text: str
    shortcut: str
    menu: str
    does: str
    needs: str = ""


ACTIONS: tuple[Action, ...] = (
    Action("file.new", "New weave", "Ctrl+N", "Weave", "Start an empty weave: choose its cords and how they hang"),
    Action("file.open", "Open…", "Ctrl+O", "Weave", "Open a weave or a script"),
    Action("file.recent", "Recent weaves…", "Ctrl+Shift+O", "Weave", "Open one of the weaves that were open last, wherever it lies"),
    Action("file.save", "Save", "Ctrl+S", "Weave", "Save now; edits are saved by themselves once the weave has a file"),
    Action("file.save-as", "Save as…", "Ctrl+Shift+S", "Weave", "Save under another name, or the script alone as .weave"),
    Action("file.loose", "Weaves in no file…", "", "Weave", "Weaves that were in no file when the program ended, or whose file is gone"),
    Action("file.compare", "Compare with the file…", "Ctrl+Shift+D", "Weave", "See what something else has changed in the file, and choose which of the two goes on"),
    Action("file.take-over", "Take over", "", "Weave", "Change this weave here, when the window that had it open is closed"),
    Action("file.quit", "Quit", "Ctrl+Q", "Weave", "Leave; nothing is lost"),
    Action("edit.undo", "Undo", "Ctrl+Z", "Edit", "Take back the last change, whichever screen made it"),
    Action("edit.redo", "Redo", "Ctrl+Shift+Z", "Edit", "Make the change again"),
    Action("edit.cut", "Cut steps", "Ctrl+X", "Edit", "Take the chosen rungs away, to be pasted elsewhere", "rung"),
    Action("edit.copy", "Copy steps", "Ctrl+C", "Edit", "Copy the chosen rungs, as lines of the script", "rung"),
    Action("edit.paste", "Paste steps", "Ctrl+V", "Edit", "Add copied rungs or lines of a script, below the chosen rung or at the end"),
    Action("edit.rename", "Rename weave…", "F2", "Edit", "Give the weave another name"),
    Action("edit.stop", "Stop tracing", "Ctrl+.", "Edit", "Leave the rest of a very long weave untraced; the next edit goes on", "tracing"),
    Action("view.hang", "Hang", "Ctrl+H", "Go", "Choose the cords, what they hang on and how they are made fast"),
    Action("view.record", "Record", "Ctrl+1", "Go", "Record steps by keys, mouse or script"),
    Action("view.look", "Look", "Ctrl+5", "Go", "The section pulled tight: front, back and edge, its size and the cord it takes"),
    Action("view.tie", "Tie", "Ctrl+2", "Go", "Log a test tie and see what it teaches"),
    Action("view.cut", "Cut", "Ctrl+3", "Go", "Size, whole units and cuts"),
    Action("view.sheet", "Sheet", "Ctrl+4", "Go", "The instruction sheet, as the reader gets it"),
    Action("view.fold", "Fold the ladder", "Ctrl+-", "Go", "Fold every knot of the ladder to one rung, or open all; Left and Right do it to one"),
    Action("view.motion", "Motion", "", "Go", "Let strands move when steps are played, or jump from step to step"),
    Action("view.tight", "Tight weave beside the recorder", "", "Go", "Show the section pulled tight beside the steps while they are recorded, or not"),
    Action("view.dark", "Dark", "Ctrl+D", "Go", "Dark or light surface"),
    Action("go.search", "Find an action…", "Ctrl+K", "Go", "Search every action by its words"),
    Action("go.keys", "All keys", "F1", "Go", "Every key and what it does"),
    Action("record.mirror", "Mirror the unit", "Ctrl+M", "Record", "Add the unit so far once more, seen in a mirror"),
    Action("record.book", "Tie a knot…", "Ctrl+J", "Record", "The book of knots: by words or by looks, in anybody’s words, tied from a place on"),
    Action("record.write", "Write a step…", "Ctrl+L", "Record", "Add a step, a knot or anything else the script can say, as one line"),
    Action("record.mend", "Mend the slip in the script", "Alt+Return", "Record", "Put the likeliest word, or the tails in between, where the script has a slip"),
    Action("record.over", "Turn the work over", "Ctrl+T", "Record", "From here on the back lies up: left becomes right"),
    Action("record.insert", "Record after this rung", "Ins", "Record", "The steps recorded from now on go in below the chosen rung; Esc goes back to the end", "rung"),
    Action("record.repeat", "Repeat these steps…", "Ctrl+R", "Record", "Add the chosen rungs again below, as often as you say", "rung"),
    Action("record.mirror-here", "Mirror these steps", "Ctrl+Shift+M", "Record", "The chosen rungs seen in a mirror, in their place", "rung"),
    Action("record.flip-here", "Exchange front and back", "Ctrl+Shift+F", "Record", "Every over of the chosen rungs becomes an under", "rung"),
    Action("record.swap-leader", "Swap the leader", "Ctrl+Shift+L", "Record", "The outermost ends of the chosen rungs exchange what they do", "rung"),
    Action("record.knot", "Make a knot of these steps…", "Ctrl+G", "Record", "The chosen rungs become a knot with a name, tied here", "rung"),
    Action("record.open-knot", "Open the knot into steps", "Ctrl+Shift+G", "Record", "The chosen knots become their steps, which can be changed here alone", "rung"),
    Action("record.keep-ends", "Keep the ends later steps moved", "Ctrl+Shift+K", "Record", "After an edit above them, later steps move the ends they moved before", "offer"),
    Action("cord.rename", "Rename a cord…", "", "Record", "Another name for a cord, wherever it stands"),
    Action("cord.colour", "Recolour a cord…", "", "Record", "Another colour for a cord, everywhere"),
    Action("cord.kind", "Another kind of cord…", "", "Record", "Exchange nylon for cotton, or 4 mm for 2 mm"),
    Action("cord.join", "Join two cords…", "", "Record", "Two cords made one by their other ends, and how far from the fold the join lies"),
    Action("record.remove", "Remove steps", "Del", "Record", "Remove the chosen rungs", "rung"),
    Action("record.earlier", "Move steps up", "Ctrl+Up", "Record", "Move the chosen rungs one up", "rung"),
    Action("record.later", "Move steps down", "Ctrl+Down", "Record", "Move the chosen rungs one down", "rung"),
    Action("record.how", "How the section is worked…", "Ctrl+Shift+E", "Record", "How often, how one and the next take turns, and whether it is meant to spiral"),
    Action("record.section", "New section…", "Ctrl+Shift+N", "Record", "Add a start, body or finish"),
    Action("play.run", "Play", "Space", "Play", "Show the steps being made, from the chosen rung on; again stops"),
    Action("play.back", "Play back", "Shift+Space", "Play", "Show the steps undone, one after the other"),
    Action("play.next", "Next step", ".", "Play", "One step on, at rest"),
    Action("play.previous", "Previous step", ",", "Play", "One step back, at rest"),
    Action("play.faster", "Faster", "+", "Play", "Play at double speed, then four times"),
    Action("play.slower", "Slower", "-", "Play", "Play at half speed, then a quarter"),
    Action("play.behind", "From behind", "/", "Play", "See the steps from the other side of the work"),
    Action("play.save", "Save the motion…", "", "Play", "Write the stretch as an animated picture that any browser shows"),
    Action("look.band", "The band", "Ctrl+Alt+1", "Look", "Units of the section from the front, from behind and on edge"),
    Action("look.whole", "The whole piece", "Ctrl+Alt+2", "Look", "Start, body and finish in the planned size, to scale beside a ruler"),
    Action("look.slips", "How it goes wrong", "Ctrl+Alt+3", "Look", "The common slips of this section next to the right one, how to tell them and what to undo"),
    Action("look.turn", "Turn it in the hand", "Ctrl+Alt+4", "Look", "The tight weave from anywhere: drag it, or turn it with the arrows"),
    Action("look.colours", "Colourways", "Ctrl+Alt+5", "Look", "The weave in other colours side by side, front and back; one click takes one"),
    Action("look.keep", "Keep this beside", "Ctrl+Alt+K", "Look", "Keep the shape that is shown, to compare it with what comes; again lets it go", "shape"),
    Action("look.names", "Names of the ends", "Ctrl+Alt+N", "Look", "Write the letter of every end where it comes in and goes out"),
    Action("look.stop", "Stop pulling", "Ctrl+Alt+.", "Look", "Leave it as tight as it is by now", "pulling"),
    Action("look.save", "Save these pictures…", "", "Look", "Write what is shown as SVG and PNG files into a folder", "shape"),
    Action("look.solid", "Save it as glTF…", "", "Look", "Write the tight weave as a solid body in its colours and its size, for rendering or printing in 3-D", "shape"),
    Action("tie.along", "Tie along…", "Ctrl+Shift+T", "Tie", "The whole screen for one step at a time, counted and timed; it ends in a test tie"),
    Action("tie.log", "Log this tie", "Ctrl+Return", "Tie", "Keep the readings as a test tie"),
    Action("tie.take", "Take the reading", "F8", "Tie", "What the instrument in hand says goes into the field with the focus, and on to the next"),
    Action("tie.instruments", "Instruments", "", "Tie", "Connect a measuring wheel, a calliper or a scale, or a simulated one"),
    Action("tie.import", "Import ties…", "", "Tie", "Read test ties from a CSV table"),
    Action("tie.export", "Export ties…", "", "Tie", "Write all test ties to a CSV table"),
    Action("sheet.publish", "Publish…", "Ctrl+P", "Sheet", "Write the sheet as HTML and PDF into a folder"),
    Action("board.over", "Over the next tail", "O", "", "Cross the next tail in front"),
    Action("board.under", "Under the next tail", "U", "", "Cross the next tail behind"),
    Action("board.over-one", "Over a strand beside it", "Shift+O", "", "Over one strand that lies beside the end, and stay there; again for the next strand instead"),
    Action("board.under-one", "Under a strand beside it", "Shift+U", "", "Under one strand that lies beside the end, and stay there; again for the next strand instead"),
    Action("board.turn", "Turn round", "R", "", "Go on to the other side"),
    Action("board.up", "Up through a loop", "I", "", "Pass from behind up through the loop whose letter comes next"),
    Action("board.down", "Down through a loop", "K", "", "Pass from the front down through the loop whose letter comes next"),
    Action("board.again", "Once more through", "T", "", "One turn more about the loop that was passed last"),
    Action("board.name", "Name the loop", "N", "", "Name the loop of the last hop: type its name, then Return; @ passes it later"),
    Action("board.together", "The next tail along with it", "G", "", "The next tail moves along with the end, side by side, as one"),
    Action("board.stacked", "The next tail under it", "Shift+G", "", "The next tail moves along beneath the end, as flat cords stacked on each other"),
    Action("board.pass", "Through a fitting", "X", "", "Through the ring, the buckle or the bar and back; again, or F, from behind"),
    Action("board.twist", "The other face up", "Y", "", "Turn a flat cord about itself, so that its other face lies up"),
    Action("board.round", "Round the next tail", "W", "", "A full turn round the next tail, front first; again for one turn more"),
    Action("board.curl", "Loop of its own", "C", "", "Make a loop of the end alone and cross in front of its own standing part"),
    Action("board.bight", "Doubled", "B", "", "Make the next pass with the end doubled: the tip stays"),
    Action("board.hitch", "The next tail hitches on to it", "H", "", "The end lies across as a runner and the next tail makes a double half hitch on it; again for one tail more"),
    Action("board.hitch-all", "Every further tail hitches on to it", "Shift+H", "", "A whole bar: all tails on that side, one after the other, hitch on to the end"),
    Action("board.beside", "Run beside another", "S", "", "Run beside the latest step of the end whose letter comes next, with the same overs and unders"),
    Action("board.along", "Back along another", "Shift+S", "", "Back up along the path of the end whose letter comes next: so many crossings, or to its top and down beside itself"),
    Action("board.leave", "Leave slack", "L", "", "Slack left standing in the turn just made: type how many mm, then Return"),
    Action("board.bead", "Thread a bead", "D", "", "Push a bead up the end"),
    Action("board.edge", "On to the edge", "E", "", "Rest at the edge of the work, in front or behind as the last hop went"),
    Action("board.place", "Rest at a place", "P", "", "Rest at the place whose number comes next"),
    Action("board.flip", "Flip the last crossing", "F", "", "Change the crossing under the pointer, else the last one, between over and under"),
    Action("board.back", "Take back a hop", "Backspace", "", "Take back the last hop of this step"),
    Action("board.done", "Rest the end", "Return", "", "The step is done: keep it"),
    Action("board.drop", "Let go", "Esc", "", "Forget this step"),
)  # fmt: skip


def action(action_id: str) -> Action:
    return next(a for a in ACTIONS if a.id == action_id)
