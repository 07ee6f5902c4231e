-- watch_cord.lua: how hard the cord pulled
-- when it parted
function on.snap(joint)
  local pull = joint.force:length()
  print(joint.name, "parted at", pull, "N")
end
