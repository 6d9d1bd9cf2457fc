<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Console;

use App\Access\Application\AccessAudit;
use App\Access\Application\PolicyStore;
use App\Access\Application\Publisher;
use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\MariaDbAccess;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use Fulcrion\Tools\Demo\DemoPolicy;
use Illuminate\Console\Command;

final class DemoAccessCommand extends Command
{
    protected $signature = 'demo:access';

    protected $description = 'Publishes the policy of the demo world, and makes the tables and accounts on the own store it speaks of';

    /** Tables of a small purchasing desk on our own MariaDB, and accounts that were granted by hand. */
    private const STORE = [
        'CREATE TABLE IF NOT EXISTS brackenfold.supplier (supplier_id INT PRIMARY KEY, name VARCHAR(80) NOT NULL, phone VARCHAR(30), '
            .'town VARCHAR(60) NOT NULL)',
        'CREATE TABLE IF NOT EXISTS brackenfold.supply_order (order_id INT PRIMARY KEY, supplier_id INT NOT NULL, item VARCHAR(60) NOT '
            .'NULL, amount DECIMAL(10, 2) NOT NULL, ordered_on DATE NOT NULL)',
        "INSERT IGNORE INTO brackenfold.supplier VALUES (1, 'Alba Rudd', '555-0104417', 'Alderby'), (2, 'Nils Hythe', '555-0104418', "
            ."'Corrow'), (3, 'Iva Stroud', NULL, 'Dellstead'), (4, 'Merle Vane', '555-0104420', 'Alderby')",
        "INSERT IGNORE INTO brackenfold.supply_order VALUES (1, 1, 'peat-free compost', 1840.50, '2026-10-02'), (2, 2, 'drip hose', "
            ."312.00, '2026-10-09'), (3, 1, 'seed trays', 96.20, '2026-10-30'), (4, 4, 'glass panes', 7420.00, '2026-11-12')",
        'CREATE ROLE IF NOT EXISTS dock',
        'GRANT SELECT, INSERT ON brackenfold.supply_order TO dock',
    ];

    public function handle(PolicyStore $store, Publisher $publisher, Clusters $clusters, AccessAudit $audit): int
    {
        if ($store->number() > 0) {
            return self::SUCCESS;
        }
        $own = Cluster::query()->where('is_own', true)->first();
        $access = $own instanceof Cluster ? $clusters->as(Actor::system(SystemActor::Demo, 'the policy of the demo'))->access($own) : null;
        if ($access instanceof MariaDbAccess && in_array('brackenfold', explode(',', (string) config('fulcrion.keeper.schemas')), true)) {
            try {
                $statements = self::STORE;
                foreach (['dock_clerk', 'energy_desk', 'grower_relations'] as $name) {
                    // Nobody signs in with these; they show how accounts get their roles.
                    $statements[] = "CREATE USER IF NOT EXISTS '{$name}'@'localhost' IDENTIFIED BY '".bin2hex(random_bytes(18))."'";
                }
                $access->apply([...$statements, "GRANT dock TO 'dock_clerk'@'localhost'"]);
            } catch (SourceError $error) {
                $this->warn($error->getMessage());
            }
        }
        $publisher->seed(DemoPolicy::document(), 'How access stood when the policy was first written down');
        $found = $audit->run(true);
        $this->output->writeln(sprintf('  %-46s%s', 'access: policy published and looked through', "{$found['open']} findings"));

        return self::SUCCESS;
    }
}
