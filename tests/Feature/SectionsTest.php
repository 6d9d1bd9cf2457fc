<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Platform\Models\User;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\Facades\Route;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;

final class SectionsTest extends TestCase
{
    /**
     * @return array<string, array{Role, list<string>}>
     */
    public static function roles(): array
    {
        return [
            'viewer' => [Role::Viewer, [
                'Workbench', 'Rewrites', 'Try as', 'Draft', 'Labels', 'Review', 'Statements of account', 'Who sees whom',
            ]],
            'engineer' => [Role::Engineer, ['Try as', 'Draft', 'Labels', 'Review', 'Statements of account', 'Who sees whom']],
            'steward' => [Role::Steward, ['Workbench', 'Rewrites', 'Statements of account', 'Who sees whom']],
            'owner' => [Role::Owner, []],
        ];
    }

    /**
     * @param  list<string>  $hidden
     */
    #[DataProvider('roles')]
    public function test_everybody_sees_the_pages_they_may_open(Role $role, array $hidden): void
    {
        $this->cluster();
        $person = $this->person($role);
        $this->actingAs($person);
        $all = [
            'Statements',
            'Compare',
            'Running now',
            'Locks',
            'Jobs',
            'Imports',
            'Plans',
            'Workbench',
            'Catalog',
            'Layout',
            'Rollups and lookups',
            'Encodings',
            'Indexes',
            'Rewrites',
            'Tuning runs',
            'Access',
            'Try as',
            'Draft',
            'Policy',
            'Labels',
            'Review',
            'Products',
            'Requests',
            'Decisions',
            'Usage',
            'Why it changed',
            'Explore',
            'Forecast',
            'Team',
            'Cost',
            'Budgets',
            'Limits',
            'Allowances',
            'Savings',
            'Bills',
            'Statements of account',
            'Prices',
            'Days',
            'Who sees whom',
            'Is it the system?',
            'Over time',
            'A moment',
            'State of servers',
            'Hosts side by side',
            'One host',
            'Baseline',
            'Storage',
            'Loading in',
            'Settings',
            'Backups', 'Where the time goes',
            'Alerts and incidents',
            'Silences',
            'Sources of metrics',
            'Fulcrion itself',
            'Findings',
            'Changes',
            'Proofs',
            'Outbox',
            'Acts',
        ];
        $shown = [];
        $navigation = $this->navigation();
        foreach ($navigation as $entry) {
            $this->get($entry['address'])->assertOk();
            foreach ($entry['groups'] as $pages) {
                foreach ($pages as $page) {
                    $shown[] = $page->label;
                    $this->get($page->address())->assertOk();
                }
            }
        }
        self::assertSame(array_values(array_diff($all, $hidden)), $shown);
        self::assertSame(
            ['round', 'tune', 'guard', 'meter', 'tend', 'ledger'],
            array_map(static fn (array $entry): string => $entry['bench']->value, $navigation),
        );
    }

    public function test_pages_stand_under_headings_in_the_frame(): void
    {
        $this->cluster();
        $this->actingAs($this->person(Role::Engineer));
        self::assertSame(['Watch', 'Understand', 'Improve'], array_keys($this->navigation()[1]['groups']));
        $page = $this->get('/tune/plans')
            ->assertOk()
            ->assertSeeInOrder(['Watch', 'Running now', 'Understand', 'Plans', 'Improve', 'Encodings'])
            ->getContent();
        self::assertIsString($page);
        self::assertSame(
            1,
            substr_count($page, 'href="/tune/plans" aria-current="page"') + substr_count($page, 'href="/tune/plans"  aria-current="page"'),
        );
        $this->get('/ledger/changes')->assertOk()->assertDontSee('Running now');
    }

    public function test_a_new_capability_is_its_provider_and_one_line(): void
    {
        $provider = new class($this->app) extends Capability
        {
            protected function pages(): array
            {
                return [
                    new Page(Bench::Tend, 'greenhouses', 'Greenhouses', 'greenhouse.index', ability: 'water'),
                    new Page(Bench::Tune, 'first', 'First', 'first.index', 'Watch', rank: 1),
                ];
            }

            protected function abilities(): array
            {
                return ['water' => [Role::Steward]];
            }

            protected function schedule(Schedule $schedule): void
            {
                $schedule->command('greenhouses:water')->hourly();
            }
        };
        Route::get('/tend/greenhouses', static fn (): string => 'beds')->name('greenhouse.index');
        Route::get('/tune/first', static fn (): string => 'first')->name('first.index');
        Route::getRoutes()->refreshNameLookups();
        $this->app?->register($provider);
        foreach ([[Role::Viewer, false], [Role::Engineer, false], [Role::Owner, false], [Role::Steward, true]] as [$role, $may]) {
            $this->actingAs($this->person($role));
            self::assertSame($may, Gate::allows('water'));
            $navigation = $this->navigation();
            self::assertSame(
                ['' => $may ? ['greenhouses'] : [], 'Watch' => ['system', 'time', 'moment', 'state', 'beside', 'hosts'],
                    'Machines' => ['baseline', 'storage', 'loading', 'settings', 'backups', 'profiles'], 'Alerts' => ['alerts', 'silences'],
                    'Sources' => ['sources', 'parts']],
                array_map(
                    static fn (array $pages): array => array_map(static fn (Page $page): string => $page->name, $pages),
                    $navigation[4]['groups'],
                ),
            );
            self::assertSame('/tune/first', $navigation[1]['address'], 'the first page of a bench is where it opens');
        }
        $planned = array_map(static fn ($event): string => (string) $event->command, app(Schedule::class)->events());
        self::assertNotEmpty(array_filter($planned, static fn (string $command): bool => str_contains($command, 'greenhouses:water')));
    }

    public function test_who_is_kept_to_some_pages_opens_no_other_and_sees_no_way_there(): void
    {
        $kept = $this->person(Role::Engineer);
        $sections = app(Sections::class);
        $sections->limit(static fn (User $user): ?array => $user->id === $kept->id ? ['finding.index', 'finding.export', 'proof.*'] : null);
        self::assertNull($sections->keptTo($this->person(Role::Viewer)));
        self::assertSame(['finding.index', 'finding.export', 'proof.*'], $sections->keptTo($kept));
        $this->actingAs($kept);
        self::assertSame([['ledger', '/ledger/findings']], array_map(
            static fn (array $entry): array => [$entry['bench']->value, $entry['address']],
            $this->navigation(),
        ));
        $this->get('/')->assertRedirect('/ledger/findings');
        foreach (['/ledger/findings', '/ledger/findings/export/csv', '/ledger/proofs', '/account'] as $own) {
            $this->get($own)->assertOk();
        }
        foreach (['/ledger/changes', '/ledger', '/tune/statements', '/meter/usage', '/guard', '/tend/clusters'] as $other) {
            self::assertContains($this->get($other)->getStatusCode(), [403, 404], $other);
        }
        $this->post('/tune/workbench/runs')->assertForbidden();
        $this->get('/no/such/page')->assertNotFound();
        $this->post('/sign-out')->assertRedirect();
        // Others are not concerned, in the same process.
        $this->actingAs($this->person(Role::Steward))->get('/ledger/changes')->assertOk();
    }

    /**
     * @return list<array{bench: Bench, address: string, groups: array<string, list<Page>>}>
     */
    private function navigation(): array
    {
        $user = auth()->user();
        self::assertInstanceOf(User::class, $user);

        return app(Sections::class)->navigation(Gate::getFacadeRoot(), $user);
    }
}
