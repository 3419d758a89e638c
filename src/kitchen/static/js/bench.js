// The plan bench.
import "./bench/cursor.js";
import "./bench/drag.js";
import "./bench/undo.js";
import "./bench/sheets.js";
import "./bench/cut_search.js";
import "./bench/keys.js";
import "./bench/answers.js";
import "./bench/draft.js";
import "./bench/trace.js";
