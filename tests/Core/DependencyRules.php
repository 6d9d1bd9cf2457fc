<?php

declare(strict_types=1);

namespace Tests\Core;

use PHPat\Selector\Selector;
use PHPat\Test\Builder\Rule;
use PHPat\Test\PHPat;

/**
 * Who may know whom. Read by the static analysis, not by the test runner.
 */
final class DependencyRules
{
    public function test_core_knows_nothing_outside_itself(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('Fulcrion\Core'))
            ->shouldNotDependOn()
            ->classes(Selector::inNamespace('App'), Selector::inNamespace('Illuminate'), Selector::inNamespace('Symfony'), Selector::inNamespace('Database'), Selector::classname('PDO'))
            ->because('the rules of the job are plain computation');
    }

    public function test_the_practice_warehouse_knows_core_only(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('Fulcrion\StandIn'))
            ->shouldNotDependOn()
            ->classes(Selector::inNamespace('App'), Selector::inNamespace('Illuminate'), Selector::inNamespace('Symfony'), Selector::inNamespace('Database'), Selector::classname('PDO'))
            ->because('the practice warehouse stands on its own');
    }

    public function test_core_does_not_know_the_practice_warehouse(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('Fulcrion\Core'))
            ->shouldNotDependOn()
            ->classes(Selector::inNamespace('Fulcrion\StandIn'))
            ->because('the practice warehouse is one engine among others');
    }

    public function test_tune_imports_no_other_bench(): Rule
    {
        return self::bench('Tune', ['Guard', 'Tend', 'Round']);
    }

    public function test_guard_imports_no_other_bench(): Rule
    {
        return self::bench('Guard', ['Tune', 'Tend', 'Round']);
    }

    public function test_tend_imports_no_other_bench(): Rule
    {
        return self::bench('Tend', ['Tune', 'Guard', 'Round']);
    }

    public function test_ledger_imports_no_bench(): Rule
    {
        return self::bench('Ledger', ['Tune', 'Guard', 'Tend', 'Round']);
    }

    public function test_estate_imports_no_bench(): Rule
    {
        return self::bench('Estate', ['Tune', 'Guard', 'Tend', 'Ledger', 'Round']);
    }

    /**
     * @param  list<string>  $others
     */
    private static function bench(string $bench, array $others): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace("App\\{$bench}"))
            ->shouldNotDependOn()
            ->classes(...array_map(static fn (string $other) => Selector::inNamespace("App\\{$other}"), $others))
            ->because('a bench knows Estate, Ledger, Platform and core only');
    }
}
