<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\Vocabulary;
use LogicException;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Who may see what at Brackenfold Growers, with the troubles that lie in it.
 */
final class DemoPolicy
{
    private const TEAMS = [
        'agronomy' => 9,
        'packhouse' => 14,
        'energy_desk' => 5,
        'grower_relations' => 7,
        'forecast_lab' => 6,
        'platform' => 4,
    ];

    private const REGIONS = ['north', 'east', 'south', 'west'];

    private const FIRST = [
        'Alba',
        'Bryn',
        'Cato',
        'Delia',
        'Edda',
        'Fenn',
        'Greta',
        'Hollis',
        'Iva',
        'Jonah',
        'Kester',
        'Linnea',
        'Merle',
        'Nils',
        'Odette',
        'Perrin',
        'Quill',
        'Runa',
        'Silas',
        'Tove',
        'Ulla',
        'Vesper',
        'Wren',
        'Yara',
        'Zeno',
    ];

    private const LAST = [
        'Arkwell',
        'Birch',
        'Calder',
        'Dunne',
        'Eskdale',
        'Fallow',
        'Garth',
        'Hythe',
        'Ingram',
        'Keld',
        'Lorne',
        'Marsh',
        'Nettle',
        'Orrin',
        'Pike',
        'Rudd',
        'Stroud',
        'Thorne',
        'Vane',
        'Wick',
    ];

    /** Views on practice clusters that data products are made of. */
    public const VIEWS = [
        'field.bay_yield' => 'CREATE VIEW field.bay_yield AS SELECT h.bay_id, b.name AS bay, h.grade, sum(h.kilos) AS kilos, count(*) '
            .'AS picks FROM field.harvest_pick AS h JOIN ref.bay AS b ON b.bay_id = h.bay_id GROUP BY h.bay_id, b.name, h.grade',
        'people.grower_directory' => 'CREATE VIEW people.grower_directory AS SELECT grower_id, name, region, letter_language, phone '
            .'FROM people.grower',
    ];

    public static function document(): Document
    {
        $read = ['use', 'select'];
        $data = [
            'people' => self::people(),
            'roles' => [
                'staff' => ['description' => 'Everybody who works here: reads the reference tables and all regions.'],
                'agronomy' => ['description' => 'Climate, water and crops of the bays.', 'includes' => ['staff']],
                'packhouse' => ['description' => 'Picking, packing and shipping.', 'includes' => ['staff']],
                'energy_desk' => ['description' => 'Heat, light and their bills.', 'includes' => ['staff']],
                'grower_relations' => ['description' => 'Speaks with the growers, and so sees how to reach them.', 'includes' => ['staff']],
                'forecast_lab' => ['description' => 'Models of yield.', 'includes' => ['staff']],
                'loaders' => ['description' => 'The nightly batch.', 'includes' => ['staff']],
                'boards' => ['description' => 'The dashboards.', 'includes' => ['staff']],
                'platform' => ['description' => 'The engineers who keep the clusters.', 'includes' => ['staff']],
                'stewards' => ['description' => 'Decide on access.', 'includes' => ['staff']],
                'north_visits' => ['description' => 'Visits the glasshouses of the north, and sees no others.'],
            ],
            'owners' => ['estate' => ['owner' => 'role:platform'], 'fernhill.people' => ['owner' => 'role:grower_relations']],
            'grants' => [
                'staff reference' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.ref',
                    'to' => ['role:staff'],
                    'reason' => 'calendars, bays and varieties are nobody\'s secret',
                ],
                'agronomy field' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.field',
                    'to' => ['role:agronomy', 'role:boards'],
                    'reason' => 'their daily work',
                ],
                'packhouse picks' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.field',
                    'to' => ['role:packhouse'],
                    'reason' => 'pick planning',
                ],
                'packhouse shipping' => [
                    'effect' => 'allow',
                    'privileges' => ['use', 'select', 'update'],
                    'on' => 'fernhill.trade',
                    'to' => ['role:packhouse'],
                    'reason' => 'shipping papers',
                ],
                'packhouse crews' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.people.crew_member',
                    'to' => ['role:packhouse'],
                    'reason' => 'shift lists',
                ],
                'people schema' => [
                    'effect' => 'allow',
                    'privileges' => ['use'],
                    'on' => 'fernhill.people',
                    'to' => ['role:packhouse', 'role:staff'],
                    'reason' => 'to reach what is granted below',
                ],
                // Trouble 12: kept from the year the packhouse metered its own cold rooms.
                'packhouse energy' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.energy',
                    'to' => ['role:packhouse'],
                    'reason' => 'cold rooms, until they had meters of their own',
                ],
                'packhouse growers' => [
                    'effect' => 'allow',
                    'privileges' => ['select'],
                    'on' => 'fernhill.people.grower',
                    'to' => ['role:packhouse'],
                    'reason' => 'price talks in spring',
                ],
                'energy' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.energy',
                    'to' => ['role:energy_desk', 'role:boards'],
                    'reason' => 'their daily work',
                ],
                'growers' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.people.grower',
                    'to' => ['role:grower_relations'],
                    'reason' => 'they speak with them',
                ],
                'grower trade' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.trade',
                    'to' => ['role:grower_relations', 'role:boards'],
                    'reason' => 'offers and shipments of growers',
                ],
                'lab field' => [
                    'effect' => 'allow',
                    'privileges' => ['use', 'select', 'create', 'insert', 'drop'],
                    'on' => 'fernhill.field',
                    'to' => ['role:forecast_lab'],
                    'reason' => 'models need the whole history, and tables to work in',
                ],
                'loaders all' => [
                    'effect' => 'allow',
                    'privileges' => ['use', 'select', 'insert', 'update', 'delete', 'create', 'drop'],
                    'on' => 'fernhill',
                    'to' => ['role:loaders'],
                    'reason' => 'the nightly batch',
                ],
                'teams on wren' => [
                    'effect' => 'allow',
                    'privileges' => ['use', 'select', 'insert', 'update', 'create', 'drop'],
                    'on' => 'wren',
                    'to' => ['role:agronomy', 'role:packhouse', 'role:energy_desk', 'role:grower_relations', 'role:forecast_lab'],
                    'reason' => 'rehearsals',
                ],
                'directory' => [
                    'effect' => 'allow',
                    'privileges' => ['select'],
                    'on' => 'fernhill.people.grower_directory',
                    'to' => ['role:stewards'],
                    'reason' => 'data product grower_directory',
                ],
                'yield' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.field.bay_yield',
                    'to' => ['role:stewards'],
                    'reason' => 'data product bay_yield',
                ],
                'yield schema' => [
                    'effect' => 'allow',
                    'privileges' => ['use'],
                    'on' => 'fernhill.field',
                    'to' => ['role:stewards', 'role:north_visits'],
                    'reason' => 'data product bay_yield',
                ],
                'visits' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.field.harvest_pick',
                    'to' => ['role:north_visits'],
                    'reason' => 'what was picked where they go',
                ],
                // Trouble 12: two people hold what should come with a role.
                'tove and the growers' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.people.grower',
                    'to' => ['person:tove.marsh'],
                    'reason' => 'stood in for a colleague in May',
                ],
                'silas and the growers' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'fernhill.people.grower',
                    'to' => ['person:silas.keld'],
                    'reason' => 'model of payments, never finished',
                ],
                'store desk' => [
                    'effect' => 'allow',
                    'privileges' => $read,
                    'on' => 'own-store.brackenfold',
                    'to' => ['role:energy_desk', 'role:grower_relations'],
                    'reason' => 'suppliers and orders',
                ],
            ],
            'vocabulary' => self::vocabulary(),
            'labels' => self::labels(),
            'masks' => [
                'first letter' => [
                    'shows' => 'first characters',
                    'count' => 1,
                    'description' => 'Enough to tell two people in one list apart.',
                ],
                'last three' => ['shows' => 'last characters', 'count' => 3, 'description' => 'As on bills.'],
                'joinable' => ['shows' => 'keyed hash', 'description' => 'Equal values stay equal, so that they still join.'],
                'nothing' => ['shows' => 'nothing'],
            ],
            'rules' => [
                'mask personal' => [
                    'description' => 'What names a person is masked, except for those who speak with them and for the batch that '
                        .'carries it.',
                    'scope' => 'estate',
                    'for' => ['everyone'],
                    'except' => ['role:grower_relations', 'role:loaders'],
                    'when' => "label('personal') = 'direct'",
                    'effect' => 'mask',
                    'mask' => 'first letter',
                ],
                'hide pay' => [
                    'description' => 'Wages are between a crew member and the office.',
                    'scope' => 'fernhill.people',
                    'for' => ['everyone'],
                    'except' => ['role:loaders'],
                    'when' => "label('pay') = 'confidential'",
                    'effect' => 'hide',
                ],
            ],
            'hierarchies' => [
                'regions' => [
                    'description' => 'Cooperative, region, district, site',
                    'table' => 'fernhill.ref.region_tree',
                    'node' => 'node_id',
                    'parent' => 'parent_id',
                    'name' => 'name',
                    'from' => 'valid_from',
                ],
            ],
            'dimensions' => [
                'site' => [
                    'description' => 'Where something was grown.',
                    'columns' => [
                        'fernhill.field.harvest_pick.glasshouse_id' => 'glasshouse_id',
                        'fernhill.trade.pallet_shipment.glasshouse_id' => 'glasshouse_id',
                        'fernhill.people.grower.region' => 'name',
                    ],
                    'hierarchy' => 'regions',
                ],
            ],
            'scopes' => [
                'staff everywhere' => [
                    'dimension' => 'site',
                    'for' => ['role:staff'],
                    'everything' => true,
                    'level' => 'detail',
                    'mode' => 'trim',
                ],
                'visits north' => [
                    'dimension' => 'site',
                    'for' => ['role:north_visits'],
                    'branches' => ['north'],
                    'level' => 'detail',
                    'mode' => 'refuse',
                ],
                'visits totals' => [
                    'dimension' => 'site',
                    'for' => ['role:north_visits'],
                    'everything' => true,
                    'level' => 'totals',
                    'mode' => 'refuse',
                ],
            ],
            'products' => [
                'bay_yield' => [
                    'title' => 'Yield of bays',
                    'purpose' => 'Compare bays and varieties without looking at who picked',
                    'description' => 'Kilos and picks of each bay by grade. Fresh after every load of picks.',
                    'owner' => 'role:agronomy',
                    'contact' => 'agronomy@brackenfold.example',
                    'links' => ['https://handbook.brackenfold.example/yield'],
                    'audience' => ['agronomy', 'stewards'],
                    'views' => ['fernhill.field.bay_yield'],
                    'published' => true,
                ],
                'grower_directory' => [
                    'title' => 'Directory of growers',
                    'purpose' => 'Find who grows where, and in which language to write',
                    'description' => 'Names and telephone numbers are masked unless one speaks with growers.',
                    'owner' => 'role:grower_relations',
                    'contact' => 'growers@brackenfold.example',
                    'audience' => ['grower_relations', 'stewards'],
                    'views' => ['fernhill.people.grower_directory'],
                    'published' => true,
                ],
            ],
            'settings' => ['masked use' => ['value' => 'masked value']],
        ];
        $document = Document::read($data);

        return is_array($document) ? throw new LogicException(implode(' ', array_map(strval(...), $document))) : $document;
    }

    /**
     * @return array<string, array<string, mixed>>
     */
    private static function people(): array
    {
        $random = new Randomizer(new Mt19937(46));
        $people = [
            'marta' => [
                'title' => 'Marta Ellwood',
                'kind' => 'person',
                'roles' => ['platform'],
                'attributes' => ['team' => 'platform', 'clearance' => 3],
            ],
            'idris' => [
                'title' => 'Idris Pell',
                'kind' => 'person',
                'roles' => ['platform'],
                'attributes' => ['team' => 'platform', 'clearance' => 2],
            ],
            'saskia' => [
                'title' => 'Saskia Thorne',
                'kind' => 'person',
                'roles' => ['stewards'],
                'attributes' => ['team' => 'stewards', 'clearance' => 3],
            ],
            'joon' => [
                'title' => 'Joon Aldery',
                'kind' => 'person',
                'roles' => ['agronomy'],
                'attributes' => ['team' => 'agronomy', 'region' => 'east', 'clearance' => 1],
            ],
            'tove.marsh' => [
                'title' => 'Tove Marsh',
                'kind' => 'person',
                'roles' => ['packhouse'],
                'attributes' => ['team' => 'packhouse', 'region' => 'south', 'clearance' => 1],
            ],
            'silas.keld' => [
                'title' => 'Silas Keld',
                'kind' => 'person',
                'roles' => ['forecast_lab'],
                'attributes' => ['team' => 'forecast_lab', 'clearance' => 1],
            ],
            'ebba.lund' => [
                'title' => 'Ebba Lund',
                'kind' => 'person',
                'roles' => ['north_visits'],
                'attributes' => ['team' => 'agronomy', 'region' => 'north', 'clearance' => 1],
            ],
        ];
        foreach ([...array_keys(self::TEAMS), 'loaders', 'boards'] as $team) {
            $people[$team] = ['title' => "Account of {$team}", 'kind' => 'service', 'roles' => [$team], 'attributes' => ['team' => $team]];
        }
        foreach (self::TEAMS as $team => $count) {
            for ($i = 0; $i < $count; $i++) {
                do {
                    [$first, $last] = [
                        self::FIRST[$random->getInt(0, count(self::FIRST) - 1)],
                        self::LAST[$random->getInt(0, count(self::LAST) - 1)],
                    ];
                    $name = strtolower("{$first}.{$last}");
                } while (isset($people[$name]));
                $people[$name] = [
                    'title' => "{$first} {$last}",
                    'kind' => 'person',
                    'roles' => [$team],
                    'attributes' => [
                        'team' => $team,
                        'region' => self::REGIONS[$random->getInt(0, 3)],
                        'clearance' => $random->getInt(1, 2),
                    ],
                ];
            }
        }

        return $people;
    }

    /**
     * @return array<string, array<string, mixed>>
     */
    private static function vocabulary(): array
    {
        $kinds = [
            'values' => ['direct', 'indirect'],
            'definers' => ['role:stewards'],
            'assigners' => ['role:stewards', 'role:grower_relations'],
            'hue' => 'plum',
            'shape' => 'tab',
        ];

        return [
            'personal' => [
                'description' => 'Says something about a living person: direct where it names them, indirect where it needs another table.',
            ] + $kinds,
            'personal/phone' => ['description' => 'A number somebody can be called at.'] + $kinds,
            'personal/email' => ['description' => 'An address somebody can be written to.'] + $kinds,
            'pay' => [
                'description' => 'What somebody earns.',
                'values' => ['confidential', 'open'],
                'definers' => ['role:stewards'],
                'assigners' => ['role:stewards'],
                'hue' => 'ochre',
                'shape' => 'notch',
            ],
            'domain' => [
                'description' => 'Which part of the house answers for it.',
                'values' => ['growing', 'trade', 'energy', 'people', 'reference'],
                'definers' => ['role:stewards'],
                'assigners' => ['role:staff'],
                'hue' => 'verdigris',
                'shape' => 'round',
            ],
        ];
    }

    /**
     * @return array<string, array<string, mixed>>
     */
    private static function labels(): array
    {
        $labels = [];
        $put = static function (string $path, string $key, string $value) use (&$labels): void {
            $labels[Vocabulary::labelName($path, $key)] = [
                'on' => $path,
                'key' => $key,
                'value' => $value,
                'origin' => 'set',
                'state' => 'accepted',
            ];
        };
        foreach (
            ['field' => 'growing', 'trade' => 'trade', 'energy' => 'energy', 'people' => 'people',
                'ref' => 'reference'] as $schema => $domain
        ) {
            $put("fernhill.{$schema}", 'domain', $domain);
        }
        foreach (['grower.name', 'grower.contact_person', 'crew_member.name'] as $column) {
            $put("fernhill.people.{$column}", 'personal', 'direct');
        }
        $put('fernhill.people.crew_member.wage', 'pay', 'confidential');
        // Trouble 11: six columns whose label no rule on the value sees. The two columns of telephone numbers carry none.
        foreach (['email' => 'yes', 'national_id' => 'true', 'bank_account' => '1'] as $column => $value) {
            $put("fernhill.people.grower.{$column}", 'personal', $value);
            $put("fernhill.people.crew_member.{$column}", 'personal', $value);
        }
        foreach (
            [
                'grower' => ['name', 'contact_person', 'phone', 'email', 'national_id', 'bank_account'],
                'crew_member' => ['name', 'phone', 'email', 'national_id', 'bank_account'],
            ] as $table => $columns
        ) {
            foreach ($columns as $column) {
                $put("wren.people.{$table}.{$column}", 'personal', 'direct');
            }
        }
        $put('own-store.brackenfold.supplier.name', 'personal', 'direct');
        $put('own-store.brackenfold.supplier.phone', 'personal', 'direct');
        // A free key, which nobody has defined.
        $put('fernhill.trade.price_offer', 'asked about in audit', 'spring');

        return $labels;
    }
}
