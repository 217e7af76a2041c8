{
 "format": "upland-wren-project",
 "version": 3,
 "project": {
  "name": "plain",
  "notes": ""
 },
 "machine": {
  "name": "Shop router 700 × 1000",
  "travel_x": 700.0,
  "travel_y": 1000.0,
  "travel_z": 100.0,
  "clear_under_nut": 110.0,
  "max_feed_x": 3000.0,
  "max_feed_y": 3000.0,
  "max_feed_z": 1500.0,
  "rapid": 5000.0,
  "acceleration": 500.0,
  "spindle_low": 8000.0,
  "spindle_high": 24000.0,
  "spindle_power": 800.0,
  "runout": 0.01,
  "park_x": 350.0,
  "park_y": 990.0,
  "nose_diameter": 60.0,
  "nose_above": 30.0,
  "shoe_diameter": 0.0,
  "shoe_above": 10.0,
  "probe_error": 0.03,
  "zero_error": 0.15,
  "thickness_error": 0.05,
  "knows_g53": true,
  "knows_g43": true,
  "knows_g61": true,
  "change": "by_hand"
 },
 "programs": {
  "units": "mm",
  "arcs": true,
  "files": "per_cutter",
  "safe": 10.0
 },
 "parts": {
  "fretboard": {
   "strings": {
    "count": 6,
    "scale_bass": 635.0,
    "scale_treble": 635.0,
    "square_fret": 7.0,
    "nut_spread": 35.0,
    "bridge_spread": 52.0,
    "spacing": "centres",
    "left_handed": false,
    "gauges": []
   },
   "frets": {
    "count": 22,
    "zero_fret": false,
    "tang_width": 0.53,
    "tang_depth": 1.5,
    "crown_width": 2.4,
    "crown_height": 1.2,
    "wire_overhang": 3.0
   },
   "board": {
    "thickness": 6.35,
    "edge_margin": 4.0,
    "overhang": 9.0,
    "nut_extension": 6.0,
    "end": "square",
    "end_rise": 6.0,
    "order": "flat_first",
    "blank": {
     "length": 510.0,
     "width": 75.0,
     "thickness": 6.6,
     "wood": "pear",
     "lie": "x",
     "zero": "corner"
    },
    "clamps": "none",
    "tabs": 4,
    "tab_places": [],
    "tab_length": 6.0,
    "tab_height": 2.0,
    "through": 0.2
   },
   "crown": {
    "kind": "cone",
    "radius_nut": 254.0,
    "radius_last": 406.4,
    "cutter": "facing-25",
    "direction": "across",
    "extent": "board",
    "scallop": 0.01,
    "stepover": 0.0
   },
   "slot": {
    "width": 0.58,
    "depth": 2.0,
    "bottom": "crown",
    "ends": "through",
    "blind_margin": 2.0,
    "cutter": "slot-0.58",
    "entry": "ramp"
   },
   "marks": {
    "shape": "dot",
    "places": [
     3.0,
     5.0,
     7.0,
     9.0,
     12.0,
     15.0,
     17.0,
     19.0,
     21.0,
     24.0
    ],
    "size": 6.0,
    "length": 20.0,
    "depth": 1.75,
    "cutter": "flat-3.175",
    "outline": []
   },
   "outline": {
    "cutter": "flat-3.175",
    "climb": true,
    "skim": 0.2
   }
  },
  "coupon": {
   "coupon": {
    "thickness": 12.0,
    "wood": "yellow-poplar",
    "pocket": 20.0
   }
  },
  "neck": {
   "neck": {
    "build": "separate_board",
    "joint": "bolted",
    "with_board": true,
    "fret_a": 1,
    "thickness_a": 21.0,
    "shape_a": "oval",
    "fret_b": 12,
    "thickness_b": 22.5,
    "shape_b": "d",
    "lean": 0.0,
    "fair_within": 0.2,
    "symmetric": false,
    "heel_kind": "block",
    "heel_start": 66.0,
    "heel_thickness": 25.4,
    "heel_beyond": 0.0,
    "heel_t