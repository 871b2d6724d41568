"""1,024 everyday English words of four to eight letters for passphrases, chosen by us: each drawn
at random is worth 10 bits.
"""

_TEXT = """
able acorn actor adder adobe agate aisle alarm album alder algae alley alloy almond alpine amber
amble ample anchor angle ankle anthem anvil apple apricot apron arbor arcade arch arena argon armor
aroma arrow artist aspen aster atlas atom attic august aunt autumn avenue awning axle azure badge
badger bagel baker balcony ballad balsa bamboo banana banjo banner barge barley barn baron barrel
basalt basil basin basket batch bath baton beacon beagle beaker beam bean bear beaver beetle bell
belt bench berry birch biscuit bishop bison blanket blaze blend blimp block bloom blossom blouse
blue boat bobbin bolt bonnet bonus border bottle boulder bounty bowl bracket bramble branch brass
bread breeze brick bridge bright brisk broad bronze brook broom brown brush bubble bucket buckle
bugle bundle bunny burrow butter button cabbage cabin cable cactus cadet calm camel camera canal
candle canoe canopy canvas canyon caramel caravan carbon cargo carpet carrot carton carve cashew
castle catalog cedar cellar cello cement cereal chalk chamber chapel charm chart cheese cherry chess
chestnut chime chisel chorus cider cinema cinnamon circle citrus clam clay clever cliff clinic cloak
clock cloud clover coach coast cobalt cocoa coffee collar colony comet comma compass copper coral
cord cork corner cottage cotton couch cousin cove cradle crane crater crayon cream creek crescent
cricket crimson crisp crown crystal cube cuckoo cupboard curl current curtain cushion cycle cypress
dahlia dairy daisy damson dance dapper dawn decade deck deer delta denim desert desk dial diamond
diary diesel dinner disk ditch diver dock dolphin dome donkey door double dove dragon drapery drawer
dream drift drizzle drum dune dusk dusty eagle early earth easel east echo eclipse edge elbow elder
elegant ember emerald empire enamel engine ensign envelope epoch equator ermine estuary evening
event exact fable fabric falcon family fancy farmer father feather fennel fern ferry fiber fiddle
field filter finch finger fire fish flag flame flannel flask fleece flint float flock floor flora
flour flower flute foam folder forest forge fork fossil fountain frame freckle fresh friend frost
fruit funnel furnace gable gadget galaxy gallery gallon garden garlic garnet gate gazelle gentle
geyser giant ginger giraffe glacier glade glass glide globe glove glow gold gondola goose gopher
grain granite grape graph grass gravel green grid grove guava guest guitar gull gust habit hammer
hammock hamper handle harbor harp harvest hatch hawk hazel heath hedge helium helmet hemlock herald
herb heron hickory hill hinge hobby hockey holly honest honey hood hopper horizon horn hornet horse
hotel hour house hover humble hummus hunter husky iceberg icicle igloo indigo inkwell inlet insect
iris iron island ivory jacket jade jaguar jasmine jasper jelly jersey jewel jigsaw jingle jockey
jolly journal jovial judge juggle juice jumbo jungle juniper jury kayak kelp kernel kettle keyhole
kiln kind king kiosk kitchen kite kitten kiwi knapsack knight knot koala label ladder ladle lagoon
lake lamp lantern larch large lark laser lattice laurel lava lavender lawn leaf leather ledger
legend lemon lens lentil letter level lever liberty library lichen light lilac lily lime linden
linen linnet lion liquid lizard llama lobster local locket locust lodge lofty logic lotus loyal
lumber lunar lunch lyric magenta magnet maize mallet mango manor mantle maple marble march margin
marina market marsh marvel mason meadow medal mellow melody melon member mentor merlin metal meteor
metro mild mill mineral minnow mint mirror mitten model modest molten moment monsoon moon moose
morning mosaic moss motor mountain muffin mulberry mural museum music mussel mustard myrtle napkin
narrow native nature navy nectar needle neon nephew nest nettle neutral nickel nimble noble nomad
noodle north notch novel number nursery nutmeg nylon oaken oasis object oboe ocean octave olive
omega onion onyx opal open opera orange orbit orchard orchid organ osprey otter oval oven oxygen
oyster ozone pacific paddle palace palette palm panda panel panther papaya paper paprika parade
parcel park parrot parsley parsnip pastel pasture patch patio pattern peach peanut pear pebble pecan
pedal pelican pencil pendant penguin pepper perch petal phantom phrase piano picnic picture pier
pigeon pigment pillow pilot pine pink pioneer pixel plain planet plank plasma plate plaza plover
plum plume pocket poem polar polish pollen pond pony poplar poppy porch portal potato pottery powder
prairie prism prize proud public pudding puffin pulley pumice pumpkin puppet purple puzzle pyramid
quail quarry quartz quasar quaver queen quest quick quiet quill quilt quince quiver rabbit raccoon
radar radio radish raft railway rain raisin ramp ranch rapid raven razor recipe record reef region
relay remedy resin ribbon rice ridge ripple river roast robin robot rocket rodeo romance roof room
rosemary rotor round rover royal ruby rudder rugby runner russet rust rustic sable saddle saffron
sage sail salad salmon salsa sandal sandy sapling satin saturn sauce savanna scarf scarlet scenic
school scoop scout screen sculptor seagull season sedge seed sepia sequoia serene shadow shale
shallow shamrock shark shell shelter sherbet shield ship shore shovel shrub signal silk silver
simple singer siren sister sketch skillet slate sled sleeve slope smooth snail snow soap soccer
socket sofa solar solid sonar sonata soup south spade spark sparrow spice spider spinach spindle
spiral sponge spoon spring sprout spruce square squash squid squirrel stable stamp starch station
statue steam steel stencil steppe stone stork storm stove straw stream street string studio sturdy
subway sugar summer summit sunny sunset supper surf swallow swamp swan sweater swift swim syrup
system table talent tango tapestry tartan tassel teal teapot temple tennis tent terrace theater
thicket thimble thistle thread thunder thyme ticket tiger timber tinsel toast toffee token tomato
topaz torch toucan tower tractor trail train travel treasure trellis tribe trout trumpet tulip
tundra tunic tunnel turbine turnip turtle tweed twilight twist umber umbrella uncle unicorn union
unit upper upward urban valley valve vanilla vapor vase vault vector velvet verb verse vessel vest
vibrant victory view villa village vine vinegar violet violin vision visitor vivid volcano volley
voyage waffle wagon walnut waltz wander warbler warm water wave weasel weaver wedge wharf wheat
wheel whisker whistle wicker willow window winter wisdom wisteria wombat wonder wooden wool world
wreath wren wrist yacht yard yarn yarrow yeast yellow yogurt yonder zebra zenith zephyr zero zigzag
zinc zipper zodiac zone
"""

WORDS: tuple[str, ...] = tuple(_TEXT.split())
