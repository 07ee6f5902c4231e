-- Lets casks down on the barge, off its middle,
-- until it heels too far.
dials {
  every = { 1.6, unit = "s", from = 0.5, to = 6,
            tip = "from cask to cask" },
  off_centre = { 0.75, unit = "m",
                 from = -1.2, to = 1.2,
                 tip = "how far off the middle" },
  most_heel = { 14, unit = "°", from = 2, to = 60,
          tip = "it is called loaded at this heel" },
  tide = { 0, unit = "m", from = -1, to = 1.2,
    tip = "raises the water over its usual height" },
}

local harbour = scene:zone("harbour")
local usual = harbour.level
local model = scene:find("cask")
local count, loaded = 0, false

local function heel()
  local up = math.min(1, math.max(-1, body.up.y))
  return math.deg(math.acos(up))
end

local function load()
  if loaded then return end
  count = count + 1
  local along = ((count - 1) % 5 - 2) * 0.95
  local off = vec(along, 2.6, dials.off_centre)
  local at = body.position + off
  scene:stamp(model, { position = at })
end

function on.play() after(1, load) end

local wait = 0
function on.tick(dt)
  harbour.level = usual + dials.tide
  wait = wait + dt
  if wait >= dials.every then
    wait = 0
    load()
  end
  if not loaded and heel() > dials.most_heel then
    loaded = true
    print("heels by", heel(), "degrees with", count,
        "casks")
  end
end
