<?php

declare(strict_types=1);

namespace Tests\Core;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\LayoutSource;
use App\Estate\Connectors\MariaDbConnector;
use App\Estate\Connectors\MariaDbIndexes;
use App\Estate\Connectors\MariaDbSamples;
use App\Estate\Connectors\MariaDbSettings;
use App\Estate\Connectors\MariaDbSpace;
use App\Estate\Connectors\PracticeConnector;
use App\Estate\Connectors\QueryRunner;
use App\Estate\Connectors\RewriteSource;
use App\Estate\Connectors\RollupSource;
use App\Estate\Connectors\SampleSource;
use App\Estate\Connectors\SettingSource;
use App\Estate\Connectors\SpaceSource;
use App\Estate\Connectors\StatementSource;
use App\Estate\Connectors\TableKeeper;
use Fulcrion\Practice\Storage\Paths;
use PHPat\Selector\Selector;
use PHPat\Test\Attributes\TestRule;
use PHPat\Test\Builder\Rule;
use PHPat\Test\PHPat;

/**
 * Who may know whom. Read by the static analysis, not by the test runner.
 */
final class DependencyRules
{
    /** What they stand on => what stands on that. */
    private const BELOW = [
        'Platform' => ['Estate', 'Telemetry', 'Metrics', 'Ledger'],
        'Estate' => ['Telemetry', 'Metrics', 'Ledger'],
        'Telemetry' => ['Metrics', 'Ledger'],
        'Metrics' => ['Ledger'],
        'Ledger' => [],
    ];

    public function test_core_knows_nothing_outside_itself(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('Fulcrion\Core'))
            ->shouldNotDependOn()
            ->classes(
                Selector::inNamespace('App'),
                Selector::inNamespace('Illuminate'),
                Selector::inNamespace('Symfony'),
                Selector::inNamespace('Fulcrion\Tools'),
                Selector::classname('PDO'),
            )
            ->because('the rules of the job are plain computation');
    }

    public function test_the_practice_warehouse_knows_core_only(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('Fulcrion\Practice'))
            ->shouldNotDependOn()
            ->classes(
                Selector::inNamespace('App'),
                Selector::inNamespace('Illuminate'),
                Selector::inNamespace('Symfony'),
                Selector::inNamespace('Fulcrion\Tools'),
                Selector::classname('PDO'),
            )
            ->because('the practice warehouse stands on its own');
    }

    public function test_core_does_not_know_the_practice_warehouse(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('Fulcrion\Core'))
            ->shouldNotDependOn()
            ->classes(Selector::inNamespace('Fulcrion\Practice'))
            ->because('the practice warehouse is one engine among others');
    }

    public function test_nothing_that_is_shipped_needs_the_demo_or_the_benches(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('App'))
            ->shouldNotDependOn()
            ->classes(Selector::inNamespace('Fulcrion\Tools'))
            ->because('a production server is installed without them');
    }

    /**
     * @return iterable<Rule>
     */
    #[TestRule]
    public function test_a_capability_imports_no_other_one(): iterable
    {
        foreach (self::capabilities() as $capability) {
            yield self::keepsOff(
                $capability,
                array_diff(self::capabilities(), [$capability]),
                'a capability knows Estate, Telemetry, Ledger, Platform and core only',
            );
        }
    }

    /**
     * @return iterable<Rule>
     */
    #[TestRule]
    public function test_what_capabilities_stand_on_knows_none_of_them(): iterable
    {
        foreach (self::BELOW as $folder => $above) {
            yield self::keepsOff(
                $folder,
                [...self::capabilities(), ...$above],
                'what several capabilities stand on knows none of them, and nothing that stands on it',
            );
        }
    }

    public function test_nobody_reaches_a_cluster_without_an_actor(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('App'))
            ->excluding(Selector::inNamespace('App\Estate'))
            ->shouldNotDependOn()
            ->classes(
                Selector::classname(Connectors::class),
                Selector::classname(PracticeConnector::class),
                Selector::classname(MariaDbConnector::class),
                Selector::classname(MariaDbIndexes::class),
                Selector::classname(MariaDbSamples::class),
                Selector::classname(MariaDbSettings::class),
                Selector::classname(MariaDbSpace::class),
                Selector::classname(QueryRunner::class),
            )
            ->because('Estate\Access\Clusters hands out what an actor may use, and decides inside');
    }

    public function test_a_controller_acts_for_the_person_who_asks(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('/^App\\\\\w+\\\\Http/', true))
            ->shouldNotDependOn()
            ->classes(
                Selector::classname(SystemActor::class),
                Selector::classname(Actor::class),
                Selector::classname(LayoutSource::class),
                Selector::classname(TableKeeper::class),
                Selector::classname(RewriteSource::class),
                Selector::classname(RollupSource::class),
                Selector::classname(SampleSource::class),
                Selector::classname(SettingSource::class),
                Selector::classname(SpaceSource::class),
                Selector::classname(StatementSource::class),
                Selector::inNamespace('Fulcrion\Practice'),
            )
            ->because('what the system learns is shown to a person only through a decision for that person');
    }

    /**
     * @return list<string> folders of the application that are none others stand on
     */
    private static function capabilities(): array
    {
        $folders = array_map(basename(...), Paths::matching(dirname(__DIR__, 2).'/app/*', GLOB_ONLYDIR));

        return array_values(array_diff($folders, array_keys(self::BELOW)));
    }

    /**
     * @param  array<string>  $others
     */
    private static function keepsOff(string $folder, array $others, string $because): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace("App\\{$folder}"))
            ->shouldNotDependOn()
            ->classes(...array_values(array_map(static fn (string $other) => Selector::inNamespace("App\\{$other}"), $others)))
            ->because($because);
    }
}
