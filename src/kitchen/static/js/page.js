// What every page does. The order is that in which answers are read: the clock before what shows it.
import "./morph.js";
import "./clock.js";
import "./small_acts.js";
import "./unsaved.js";
import "./lost.js";
import "./columns.js";
import "./countdowns.js";
import "./menus.js";
import "./find.js";
import "./alarms.js";
import "./held_swaps.js";
import "./typed.js";
import "./csrf.js";
import "./signed_out.js";
import "./taps.js";
import "./kept_page.js";
import "./awake.js";
