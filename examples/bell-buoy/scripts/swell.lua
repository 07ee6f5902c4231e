-- The height of the swell, as a dial; says how the
-- buoy rides it.
dials {
  swell = { 0.7, unit = "m", from = 0, to = 1.6,
            tip = "from trough to crest" },
}

local sea = scene:zone("sea")

function on.tick()
  if sea.wave_height ~= dials.swell then
    sea.wave_height = dials.swell
  end
end
