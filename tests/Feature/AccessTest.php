<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Models\AccessRequest;
use App\Access\Models\Campaign;
use App\Access\Models\DecisionRecord;
use App\Alerts\Application\CalendarEvent;
use App\Alerts\Models\Alert;
use App\Alerts\Models\Incident;
use App\Alerts\Models\Silence;
use App\Encodings\Models\LabRun;
use App\Jobs\Models\JobRun;
use App\Jobs\Models\JobSeries;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Ledger\Ledger;
use App\Ledger\Models\Finding;
use App\Ledger\Models\LedgerEntry;
use App\Ledger\Models\Notification;
use App\Ledger\Models\ProofRecord;
use App\Ledger\Models\Subscription;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use App\Storage\Models\MaintenancePlan;
use App\Tuning\Models\TuningRun;
use Fulcrion\Core\Scheduling\Stage;
use Illuminate\Routing\Route;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Route as Routes;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

final class AccessTest extends TestCase
{
    /** What each role may reach; every other route of ours needs the role named here. */
    private const RESTRICTED = [
        'POST meter/bills' => [],
        'POST meter/bills/{bill}/match' => [],
        'POST meter/bills/{bill}/remove' => [],
        'POST meter/prices/{cluster}' => [],
        'GET meter/viewers' => [],
        'POST meter/days' => ['engineer'],
        'POST meter/days/{run}/stop' => ['engineer'],
        'GET meter/accounts' => [],
        'POST meter/accounts' => [],
        'GET meter/accounts/{schedule}/preview' => [],
        'POST meter/accounts/{schedule}/confirm' => [],
        'POST meter/accounts/{schedule}/send' => [],
        'POST meter/accounts/{schedule}/remove' => [],
        'GET meter/accounts/{account}/file.{document}' => [],
        'POST meter/viewers/{user}' => [],
        'POST meter/prices/{cluster}/rule' => [],
        'POST meter/prices/{cluster}/{price}/remove' => [],
        'POST tune/statements/{fingerprint}/reveal' => ['engineer', 'steward'],
        'POST tune/statements/{fingerprint}/report' => ['engineer', 'steward'],
        'POST tune/plans/{id}/reveal' => ['engineer', 'steward'],
        'POST guard/decisions/{decision}/reveal' => ['steward'],
        'POST tune/imports' => ['engineer'],
        'GET tune/imports/{import}/columns' => ['engineer'],
        'POST tune/imports/{import}/columns' => ['engineer'],
        'POST tune/imports/{import}/stop' => ['engineer'],
        'GET tune/imports/{import}/rejected' => ['engineer'],
        'GET tune/workbench' => ['engineer'],
        'POST tune/workbench/runs' => ['engineer'],
        'GET tune/workbench/runs/{key}' => ['engineer'],
        'POST tune/workbench/runs/{key}/stop' => ['engineer'],
        'GET tune/workbench/runs/{key}/result/{format}' => ['engineer'],
        'POST tune/workbench/inbox' => ['engineer'],
        'GET tune/workbench/history' => ['engineer'],
        'GET tune/rewrites' => ['engineer'],
        'POST tune/rewrites' => ['engineer'],
        'GET tune/rewrites/{key}' => ['engineer'],
        'GET tune/rewrites/{key}/without/{rewrite}' => ['engineer'],
        'GET tune/rewrites/{key}/instead/{way}' => ['engineer'],
        'POST tune/encodings' => ['engineer'],
        'POST tune/encodings/{run}/stop' => ['engineer'],
        'POST tune/encodings/{run}/propose' => ['engineer'],
        'POST tune/indexes/{slug}/propose' => ['engineer'],
        'POST tune/rollups/{slug}/refresh' => ['engineer'],
        'POST tune/rollups/{slug}/drop' => ['engineer'],
        'POST tune/rollups/{slug}/rollups/{name}' => ['engineer'],
        'POST tune/rollups/{slug}/lookups/{name}' => ['engineer'],
        'POST tune/jobs' => ['engineer'],
        'POST tune/jobs/{run}/stop' => ['engineer'],
        'POST tune/jobs/{run}/forget' => ['engineer'],
        'POST tune/jobs/{run}/aim' => ['engineer'],
        'POST tune/jobs/{run}/pin' => ['engineer'],
        'POST tune/jobs/{run}/again' => ['engineer'],
        'POST tune/tuning' => ['engineer'],
        'POST tune/tuning/{run}/stop' => ['engineer'],
        'POST tune/tuning/{run}/apply' => ['engineer'],
        'POST tune/plans' => ['engineer'],
        'POST tune/statements/{fingerprint}/plan' => ['engineer'],
        'GET tend/setup/{slug}' => ['engineer'],
        'POST tend/setup/{slug}' => ['engineer'],
        'GET tend/setup/{slug}/place' => ['engineer'],
        'POST tend/setup/{slug}/place' => ['engineer'],
        'POST tend/setup/{slug}/place/again' => ['engineer'],
        'POST tend/setup/{slug}/place/back' => ['engineer'],
        'POST tend/backups/{slug}/log' => ['engineer'],
        'POST tend/backups/{backup}/check' => ['engineer'],
        'POST tend/backups/{backup}/forget' => ['engineer'],
        'POST tend/backups/checks/{check}/stop' => ['engineer'],
        'POST tend/loading/{slug}/deliveries' => ['engineer'],
        'POST tend/loading/{slug}/link' => ['engineer'],
        'POST tend/loading/{slug}/try' => ['engineer'],
        'POST tend/loading/trials/{trial}/stop' => ['engineer'],
        'POST tend/baseline/{slug}' => ['engineer'],
        'POST tend/baseline/runs/{baseline}/stop' => ['engineer'],
        'POST tend/profiles' => ['engineer'],
        'POST tend/profiles/take' => ['engineer'],
        'POST tend/profiles/{profile}/stop' => ['engineer'],
        'POST tend/profiles/{profile}/remove' => ['engineer'],
        'POST tend/settings/{slug}/profile' => ['engineer'],
        'POST tend/settings/{slug}/profile/forget' => ['engineer'],
        'POST tend/settings/{slug}/read' => ['engineer'],
        'POST tend/settings/{slug}/propose' => ['engineer'],
        'POST tend/alerts' => ['engineer'],
        'POST tend/alerts/{alert}' => ['engineer'],
        'POST tend/alerts/{alert}/switch' => ['engineer'],
        'POST tend/alerts/{alert}/remove' => ['engineer'],
        'POST tend/marks' => ['engineer'],
        'POST tend/marks/{mark}/remove' => ['engineer'],
        'POST tend/incidents/{incident}/take' => ['engineer'],
        'POST tend/incidents/{incident}/hand' => ['engineer'],
        'POST tend/incidents/{incident}/note' => ['engineer'],
        'POST tend/incidents/{incident}/real' => ['engineer'],
        'POST tend/silences' => ['engineer'],
        'POST tend/silences/import' => ['engineer'],
        'POST tend/silences/{silence}/remove' => ['engineer'],
        'POST tend/sources' => ['engineer'],
        'POST tend/sources/{scrape}/remove' => ['engineer'],
        'POST tend/probes' => ['engineer'],
        'POST tend/probes/{slug}' => ['engineer'],
        'GET tend/clusters/new' => ['engineer'],
        'POST tend/clusters' => ['engineer'],
        'GET tend/clusters/{cluster}' => ['engineer'],
        'POST tend/clusters/{cluster}' => ['engineer'],
        'POST tend/clusters/{cluster}/check' => ['engineer'],
        'POST tend/clusters/{cluster}/tokens' => ['engineer'],
        'POST tend/clusters/{cluster}/tokens/{token}/revoke' => ['engineer'],
        'POST tend/clusters/{cluster}/remove' => ['engineer'],
        'GET tune/layout-advice/{slug}/{name}' => ['engineer'],
        'POST tune/layout-audit/{slug}' => ['engineer'],
        'POST tune/layout-statistics/{slug}' => ['engineer'],
        'POST tune/layout-rules/{slug}/{rule}' => ['engineer'],
        'POST tune/layout-findings/{finding}/propose' => ['engineer'],
        'POST tune/layout-propose/{slug}/{name}' => ['engineer'],
        'POST tune/layout-files' => ['engineer'],
        'POST tune/layout-files/{folder}/forget' => ['engineer'],
        'POST tune/layout-maintenance/{slug}/{name}' => ['engineer'],
        'POST tune/maintenance/{plan}/run' => ['engineer'],
        'POST tune/maintenance/{plan}/remove' => ['engineer'],
        'POST ledger/findings/{finding}/accept' => ['engineer'],
        'POST ledger/findings/{finding}/dismiss' => ['engineer'],
        'POST ledger/findings/{finding}/reopen' => ['engineer'],
        'POST ledger/changes/{change}/choose' => ['engineer'],
        'POST ledger/changes/{change}/rehearse' => ['engineer'],
        'POST ledger/changes/{change}/approve' => ['engineer'],
        'POST ledger/changes/{change}/apply' => ['engineer'],
        'POST ledger/changes/{change}/undo' => ['engineer'],
        'POST ledger/changes/{change}/stop' => ['engineer'],
        'GET guard/policy/{kind}/item' => ['steward'],
        'POST guard/policy/{kind}/item' => ['steward'],
        'POST guard/policy/{kind}/remove' => ['steward'],
        'POST guard/policy-import' => ['steward'],
        'POST guard/policy-check' => ['steward'],
        'GET guard/mask-preview/{name}' => ['steward'],
        'GET guard/labels' => ['steward'],
        'POST guard/labels/fix' => ['steward'],
        'POST guard/labels/detected' => ['steward'],
        'POST guard/labels/detect' => ['steward'],
        'POST guard/labels/rename' => ['steward'],
        'GET guard/try' => ['steward'],
        'POST guard/try/add' => ['steward'],
        'GET guard/draft' => ['steward'],
        'GET guard/draft/radius' => ['steward'],
        'GET guard/draft/replay' => ['steward'],
        'POST guard/draft/discard' => ['steward'],
        'POST guard/draft/publish' => ['steward'],
        'POST guard/versions/{number}/restore' => ['steward'],
        'GET guard/review' => ['steward'],
        'POST guard/review/run' => ['steward'],
        'POST guard/review/fix' => ['steward'],
        'GET guard/campaigns' => ['steward'],
        'POST guard/campaigns' => ['steward'],
        'GET guard/campaigns/{campaign}' => ['steward'],
        'GET guard/campaigns/{campaign}/export' => ['steward'],
        'POST guard/campaigns/{campaign}/decide' => ['steward'],
        'POST guard/campaigns/{campaign}/end' => ['steward'],
        'GET guard/provisioning' => ['steward'],
        'POST guard/provisioning/{slug}/propose' => ['steward'],
        'POST guard/provisioning/{slug}/read' => ['steward'],
        'POST ledger/subscriptions' => [],
        'POST ledger/subscriptions/{subscription}/remove' => [],
        'POST ledger/outbox/send' => [],
        'GET people' => [],
        'POST people' => [],
        'POST people/{user}' => [],
    ];

    private const OPEN = ['GET sign-in', 'POST sign-in', 'GET up', 'POST api/executions', 'POST api/v1/metrics', 'POST api/hosts',
        'POST api/backups',
        'POST api/deliveries/{name}',
        'POST api/deploys', 'GET api/own-metrics', 'GET api/usage', 'POST api/jobs'];

    #[Group('today')]
    public function test_a_number_no_record_can_have_is_not_found(): void
    {
        $this->actingAs($this->person(Role::Owner));
        $tried = 0;
        foreach (Routes::getRoutes()->getRoutes() as $route) {
            assert($route instanceof Route);
            $numbers = array_keys(array_filter($route->wheres, static fn (string $pattern): bool => $pattern === '[0-9]+'));
            if ($numbers === [] || $route->methods()[0] !== 'GET') {
                continue;
            }
            $fill = array_map(static fn (string $name): string => "{{$name}}", $numbers);
            $address = str_replace($fill, str_repeat('9', 20), $route->uri());
            $address = (string) preg_replace('~\{[a-z]+\}~', 'x', str_replace('{format}', 'csv', $address));
            $this->get("/{$address}")->assertNotFound();
            $tried++;
        }
        self::assertGreaterThan(10, $tried);
    }

    #[Group('today')]
    public function test_every_route_refuses_strangers_and_the_wrong_roles(): void
    {
        $cluster = $this->cluster();
        $this->import([['started_at' => '2026-11-20T06:00:00Z', 'duration_us' => 10, 'sql' => "SELECT 'secret' FROM t"]]);
        $finding = Finding::query()->create([
            'cluster_id' => $cluster->id,
            'source' => 'storage',
            'rule' => 'skew',
            'object' => 's.t',
            'digest' => str_repeat('0', 32),
            'severity' => 'act',
            'problem' => 'p',
            'evidence' => [],
            'state' => 'open',
            'first_us' => 1,
            'last_us' => 1,
            'changed_us' => 1,
        ]);
        $change = app(Changes::class)->propose(
            $cluster,
            $finding,
            new Proposal('s.t', 'title', 'statistics', ['ANALYZE TABLE s.t'], Inverse::none(), 0.0, 0.0, 0.0, 0.0, [], []),
            $this->person(),
        );
        $proof = ProofRecord::query()->create([
            'change_id' => $change->id,
            'kind' => 'rehearsal',
            'made_us' => 1,
            'made_by' => 'x',
            'conditions' => [],
            'measured' => '[]',
            'sentence' => 's',
            'factor' => 1.0,
            'holds' => false,
        ]);
        $subscription = Subscription::query()->create(['kind' => 'mail', 'target' => 'a@b.example', 'made_by' => 'x']);
        $notification = Notification::query()->create([
            'watcher_id' => $subscription->id,
            'kind' => 'mail',
            'recipient' => 'a@b.example',
            'subject' => 's',
            'body' => 'b',
            'state' => 'sent',
            'made_us' => 1,
        ]);
        $plan = MaintenancePlan::query()->create([
            'cluster_id' => $cluster->id,
            'object' => 's.t',
            'acts' => ['sweep'],
            'thresholds' => [],
            'made_by' => 'x',
        ]);
        $work = ['state' => 'stopped', 'asked_us' => 1, 'asked_by' => 'x', 'heartbeat_us' => 1];
        $series = JobSeries::query()->create(['cluster_id' => $cluster->id, 'name' => 'field.t']);
        JobRun::query()->forceCreate(
            [
                'id' => 7,
                'cluster_id' => $cluster->id,
                'series_id' => $series->id,
                'external_id' => 'x',
                'name' => 'field.t',
                'tasks' => 1,
                'stages' => [(new Stage('a', 'a'))->toArray()],
                'started_us' => 1,
                'ended_us' => 2,
            ] + ['state' => 'done'] +
                $work,
        );
        LabRun::query()->forceCreate(['id' => 7, 'object' => 'f.csv'] + $work);
        TuningRun::query()->forceCreate(
            [
                'id' => 7,
                'cluster_id' => $cluster->id,
                'title' => 't',
                'statements' => [],
                'limits' => ['minutes' => 1, 'gib' => 1.0, 'apply' => false, 'atUs' => null],
            ] + $work,
        );
        $campaign = Campaign::query()->create(['title' => 't', 'due' => '2026-12-01', 'made_by' => 'x', 'made_us' => 1]);
        $decision = DecisionRecord::query()->create([
            'at_us' => 1,
            'cluster_id' => $cluster->id,
            'subject' => 'person:x',
            'asked_by' => 'x',
            'source' => 'try',
            'version' => 0,
            'outcome' => 'allowed',
            'fingerprint' => str_repeat('0', 32),
            'statement' => 'SELECT 1',
            'tables' => [],
            'sealed_reasons' => [],
        ]);
        $ask = AccessRequest::query()->create([
            'asked_us' => 1,
            'asked_by' => 'x',
            'subject' => 'person:x',
            'object' => 'fernhill.a.b',
            'reason' => 'r',
            'state' => 'open',
        ]);
        $limit = DB::table('limits')->insertGetId([
            'measure' => 'bytes', 'kind' => 'person', 'name' => 'ada', 'period' => 'day', 'amount' => 1, 'thresholds' => '{}',
            'state' => 'off', 'made_by' => 'x', 'made_us' => 1, 'changed_us' => 1,
        ]);
        $allowance = DB::table('allowances')->insertGetId([
            'cluster_id' => $cluster->id, 'measure' => 'burst', 'per_day' => 1, 'cap' => 2, 'start' => 0, 'from_at' => 0,
            'currency' => 'EUR', 'made_by' => 'x', 'made_us' => 1,
        ]);
        $alert = Alert::query()->create(['cluster_id' => $cluster->id, 'name' => 'a', 'signal' => 'load:waiting', 'watched' => 'value',
            'side' => 'above', 'threshold' => 1.0, 'calm' => 1.0, 'for_seconds' => 0, 'calm_seconds' => 0, 'is_urgent' => false,
            'is_on' => false, 'made_by' => 'x']);
        $incident = Incident::query()->create(['cluster_id' => $cluster->id, 'title' => 't', 'opened_at' => 1, 'last_at' => 1, 'told' => 1,
            'told_at' => 1, 'is_urgent' => false]);
        $silence = Silence::query()->create(['uid' => 'u', 'from_at' => 1, 'reason' => 'r', 'made_by' => 'x',
            'event' => CalendarEvent::make('u', 'r', 1, 2, new \DateTimeZone('UTC'), '', 1)->text()]);
        $backup = DB::table('backups')->insertGetId(['cluster_id' => $alert->cluster_id, 'plan' => 'x', 'kind' => 'full',
            'schemas_json' => '["s"]', 'started_us' => 1, 'ended_us' => 1]);
        $fill = [
            '{run}' => '7',
            '{stage}' => '0',
            '{rewrite}' => 'skipping',
            '{way}' => 'span',
            '{kind}' => 'rules',
            '{file}' => 'yaml',
            '{number}' => '1',
            '{campaign}' => (string) $campaign->id,
            '{decision}' => (string) $decision->id,
            '{ask}' => (string) $ask->id,
            '{fingerprint}' => (string) DB::table('statements')->value('fingerprint'),
            '{import}' => (string) DB::table('imports')->value('id'),
            '{cluster}' => $cluster->slug,
            '{token}' => '1',
            '{user}' => (string) $this->person(Role::Viewer)->id,
            '{format}' => 'csv',
            '{key}' => '01234567-89ab-4cde-8f01-23456789abcd',
            '{id}' => '1',
            '{slug}' => $cluster->slug,
            '{schema}' => 's',
            '{name}' => 'field.t',
            '{rule}' => 'skew',
            '{folder}' => 'f',
            '{finding}' => (string) $finding->id,
            '{change}' => (string) $change->id,
            '{proof}' => (string) $proof->id,
            '{notification}' => (string) $notification->id,
            '{subscription}' => (string) $subscription->id,
            '{plan}' => (string) $plan->id,
            '{view}' => '1',
            '{price}' => '1',
            '{quantity}' => '1',
            '{limit}' => (string) $limit,
            '{allowance}' => (string) $allowance,
            '{reservation}' => '1',
            '{bill}' => '1',
            '{document}' => 'html',
            '{schedule}' => '1',
            '{account}' => '1',
            '{attachment}' => '1',
            '{scrape}' => '1',
            '{alert}' => (string) $alert->id,
            '{incident}' => (string) $incident->id,
            '{silence}' => (string) $silence->id,
            '{mark}' => '1',
            '{baseline}' => (string) DB::table('baseline_runs')
                ->insertGetId(['cluster_id' => $alert->cluster_id, 'host' => 'x', 'plan' => '{"kind":"agent"}',
                    'state' => 'stopped', 'asked_us' => 1, 'asked_by' => 'x', 'heartbeat_us' => 1]),
            '{profile}' => '1',
            '{backup}' => (string) $backup,
            '{check}' => (string) DB::table('backup_checks')->insertGetId(['backup_id' => $backup, 'state' => 'done', 'asked_us' => 1,
                'asked_by' => 'x', 'heartbeat_us' => 1]),
            '{trial}' => (string) DB::table('load_trials')->insertGetId(['cluster_id' => $alert->cluster_id, 'plan' => '{}',
                'state' => 'done', 'asked_us' => 1, 'asked_by' => 'x', 'heartbeat_us' => 1]),
        ];
        $seen = [];
        foreach (Routes::getRoutes()->getRoutes() as $route) {
            assert($route instanceof Route);
            $name = $route->methods()[0].' '.$route->uri();
            if (in_array($name, self::OPEN, true)) {
                continue;
            }
            $seen[] = $name;
            $address = '/'.ltrim(strtr($route->uri(), $fill), '/');
            $this->app['auth']->forgetGuards();
            $this->call($route->methods()[0], $address)->assertRedirect('/sign-in');
            foreach (Role::cases() as $role) {
                $allowed =
                    $role === Role::Owner ||
                    ! array_key_exists($name, self::RESTRICTED) ||
                    in_array($role->value, self::RESTRICTED[$name], true);
                if ($allowed && $route->methods()[0] === 'POST') {
                    // Acts that are allowed are walked elsewhere.
                    continue;
                }
                $status = $this->actingAs($this->person($role))->call($route->methods()[0], $address)->getStatusCode();
                self::assertSame($allowed ? false : true, $status === 403, "{$role->value} {$name}: {$status}");
                self::assertLessThan(500, $status, "{$role->value} {$name}");
            }
        }
        self::assertSame([], array_diff(array_keys(self::RESTRICTED), $seen), 'every restricted route exists');
    }

    public function test_an_address_takes_its_own_methods_and_refuses_others_in_words(): void
    {
        config(['app.debug' => false]);
        $methods = [];
        foreach (Routes::getRoutes()->getRoutes() as $route) {
            assert($route instanceof Route);
            $methods[$route->uri()] = [...$methods[$route->uri()] ?? [], ...$route->methods()];
        }
        $this->actingAs($this->person());
        $refused = 0;
        foreach ($methods as $uri => $own) {
            $address = '/'.ltrim((string) preg_replace('~\{\w+\??\}~', '1', $uri), '/');
            foreach (array_diff(['GET', 'POST', 'PUT', 'DELETE'], $own) as $method) {
                $response = $this->call($method, $address);
                // Another address may be of the same form; where none is, the method is what is wrong.
                self::assertContains($response->getStatusCode(), [403, 404, 405, 302, 401, 422], "{$method} {$uri}");
                self::assertStringNotContainsString('Exception', (string) $response->getContent(), "{$method} {$uri}");
                $refused += $response->getStatusCode() === 405 ? 1 : 0;
            }
        }
        self::assertGreaterThan(400, $refused);
    }

    public function test_nothing_is_done_without_the_token_of_a_page_or_of_a_cluster(): void
    {
        $owner = $this->person(Role::Owner);
        $count = 0;
        // While tests run the check is left out; here it is what is tested.
        $this->app->instance('env', 'local');
        try {
            foreach (Routes::getRoutes()->getRoutes() as $route) {
                assert($route instanceof Route);
                if ($route->methods()[0] === 'GET') {
                    continue;
                }
                $fill = [
                    '{fingerprint}' => str_repeat('0', 32),
                    '{key}' => '01234567-89ab-4cde-8f01-23456789abcd',
                    '{kind}' => 'rules',
                    '{rule}' => 'skew',
                    '{name}' => 'field.t',
                    '{slug}' => 'fernhill',
                ];
                $address = '/'.preg_replace('~\{\w+\}~', '1', strtr($route->uri(), $fill));
                $isApi = str_starts_with($route->uri(), 'api/');
                $this->app['auth']->forgetGuards();
                $status = ($isApi ? $this->withHeader('Accept', 'application/json') : $this->actingAs($owner))
                    ->call($route->methods()[0], $address)
                    ->getStatusCode();
                self::assertSame($isApi ? 401 : 419, $status, "{$route->methods()[0]} {$route->uri()}");
                $count++;
            }
        } finally {
            $this->app->instance('env', 'testing');
        }
        self::assertGreaterThan(70, $count);
        self::assertSame(0, DB::table('ledger_entries')->count(), 'and nothing was');
    }

    public function test_literals_are_hidden_until_revealed_and_the_ledger_says_so(): void
    {
        // Samples are kept for some weeks after they were taken.
        $this->travelTo('2026-11-21 12:00:00 UTC');
        $this->cluster();
        $this->import([
            [
                'started_at' => '2026-11-20T06:00:00Z',
                'duration_us' => 10,
                'sql' => "SELECT a FROM t WHERE phone = '0170-555'",
                'binds' => ['bound-555'],
                'status' => 'error',
                'error' => "Duplicate entry 'ada@x' for key 'phone_key'",
            ],
        ]);
        foreach (['samples', 'statements', 'messages', 'rejected_records'] as $table) {
            self::assertStringNotContainsString(
                '0170-555',
                (string) json_encode(DB::table($table)->get(), JSON_INVALID_UTF8_SUBSTITUTE),
                $table,
            );
        }
        $fingerprint = DB::table('statements')->value('fingerprint');
        $page = "/tune/statements/{$fingerprint}";
        $this->actingAs($this->person(Role::Viewer))
            ->get("{$page}?window=2026-11-20")
            ->assertOk()
            ->assertDontSee('0170-555')
            ->assertDontSee('bound-555')
            ->assertDontSee('ada@x')
            ->assertSee('phone_key')
            ->assertDontSee('Reveal literals');
        $this->get("{$page}/report?window=2026-11-20")
            ->assertOk()
            ->assertDontSee('0170-555')
            ->assertHeader('Content-Disposition');
        $this->post("{$page}/reveal?window=2026-11-20")->assertForbidden();
        self::assertSame(0, LedgerEntry::query()->count());
        $this->actingAs($this->person(Role::Steward))
            ->post("{$page}/reveal?window=2026-11-20")
            ->assertOk()
            ->assertSee('0170-555')
            ->assertSee('bound-555');
        $this->post("{$page}/report?window=2026-11-20")
            ->assertOk()
            ->assertSee('0170-555');
        self::assertSame(
            ['revealed literals', 'took literals away in a report'],
            LedgerEntry::query()->orderBy('number')->pluck('act')->all(),
        );
    }

    public function test_the_ledger_notices_every_kind_of_tampering(): void
    {
        $ledger = app(Ledger::class);
        $fill = function () use ($ledger): void {
            DB::table('ledger_entries')->delete();
            foreach (range(1, 4) as $i) {
                $ledger->record($this->person(), 'tested', "object {$i}", ['n' => $i]);
            }
        };
        $fill();
        self::assertSame(['entries' => 4, 'brokenAt' => null], $ledger->verify());
        DB::table('ledger_entries')
            ->where('number', 2)
            ->update(['object' => 'another']);
        self::assertSame(['entries' => 2, 'brokenAt' => 2], $ledger->verify());
        $fill();
        DB::table('ledger_entries')->where('number', 3)->delete();
        self::assertSame(['entries' => 3, 'brokenAt' => 4], $ledger->verify());
        $this->actingAs($this->person())->post('/ledger/verify')->assertSessionHas('failed');
        $this->get('/ledger?words=object+1')->assertSee('object 1')->assertDontSee('object 4');
        self::assertStringContainsString('"n":4', str_replace('\\', '', $this->get('/ledger/export/json')->streamedContent()));
    }

    public function test_sign_in_is_throttled_and_says_nothing_about_who_exists(): void
    {
        $this->person();
        $answers = [];
        foreach (['owner@brackenfold.example', 'nobody@brackenfold.example'] as $email) {
            $this->post('/sign-in', ['email' => $email, 'password' => 'wrong'])->assertSessionHasErrors('email');
            $answers[] = session('errors')->first('email');
        }
        self::assertSame($answers[0], $answers[1]);
        for ($i = 0; $i < 4; $i++) {
            $this->post('/sign-in', ['email' => 'owner@brackenfold.example', 'password' => 'wrong']);
        }
        $this->post('/sign-in', ['email' => 'owner@brackenfold.example', 'password' => 'a long password'])
            ->assertStatus(429)
            ->assertSee('Wait a minute');
        $this->assertGuest();
    }

    public function test_who_is_disabled_is_out_at_once_and_the_last_owner_stays(): void
    {
        $owner = $this->person();
        $viewer = $this->person(Role::Viewer);
        $this->actingAs($owner)
            ->post("/people/{$owner->id}", ['role' => 'viewer'])
            ->assertSessionHas('failed');
        $this->post("/people/{$viewer->id}", ['role' => 'viewer', 'disabled' => 1])->assertSessionHas('done');
        $this->actingAs($viewer->refresh())->get('/tune/statements')->assertRedirect('/sign-in');
        $this->actingAs($owner)
            ->post('/people', ['name' => 'New', 'email' => 'new@brackenfold.example', 'role' => 'engineer'])
            ->assertSessionHas('done');
        self::assertSame(Role::Engineer, User::query()->where('email', 'new@brackenfold.example')->firstOrFail()->role);
    }

    public function test_pages_carry_the_strict_policy_and_escape_what_they_show(): void
    {
        $this->cluster();
        $this->import([
            [
                'started_at' => '2026-11-20T06:00:00Z',
                'duration_us' => 10,
                'sql' => 'SELECT "<script>alert(1)</script>" FROM t',
                'user' => '<b>bold</b>',
            ],
        ]);
        $response = $this->actingAs($this->person())->get('/tune/statements?window=2026-11-20&words=%3Cscript%3E')->assertOk();
        $policy = (string) $response->headers->get('Content-Security-Policy');
        self::assertStringContainsString("script-src 'self';", $policy);
        self::assertStringNotContainsString('unsafe', $policy);
        self::assertStringNotContainsString('<script>alert', (string) $response->getContent());
        self::assertDoesNotMatchRegularExpression('~<[^>]+\s(style|on\w+)=~', (string) $response->getContent());
        $report = (string) $this->get('/tune/statements/report?window=2026-11-20')->assertOk()->getContent();
        self::assertStringNotContainsString('<script', $report);
        self::assertStringNotContainsString('<b>bold', $report);
    }

    /** @param  list<string>  $queries */
    #[DataProvider('oddWindows')]
    public function test_odd_windows_have_a_sensible_page(array $queries, string $says): void
    {
        $this->cluster();
        $this->import([['started_at' => '2026-11-20T06:00:00Z', 'duration_us' => 10, 'sql' => 'SELECT a FROM t']]);
        $fingerprint = DB::table('statements')->value('fingerprint');
        foreach ($queries as $query) {
            $this->actingAs($this->person())
                ->get("/tune/statements?{$query}")
                ->assertOk()
                ->assertSee($says);
            $this->get("/tune/compare?{$query}")->assertOk();
            $this->get("/tune/statements/{$fingerprint}?{$query}")->assertOk();
            $this->get("/tune/statements/report?{$query}")->assertOk();
        }
    }

    /** @return iterable<string, array{list<string>, string}> */
    public static function oddWindows(): iterable
    {
        yield 'one bucket' => [
            [
                'window=2026-11-20+06:00-06:05',
                'window=2026-11-20+06:00-06:05&split=time&by=p99&show=count',
                'window=2026-11-20+06:00-06:05&show=mean',
            ],
            '1 of 1 statements',
        ];
        yield 'a day without data' => [['window=2026-11-19'], 'Nothing ran'];
        yield 'not a window' => [['window=soon', 'window=2026-11-20&against=never'], ''];
        yield 'a filter that leaves nothing' => [['window=2026-11-20&words=nowhere'], 'No statement of this window'];
        yield 'odd parameters' => [['window=2026-11-20&by=nothing&split=x&page=-3&with[]=x&dir=up', 'window=2026-11-20&page=99'], '1 of 1'];
    }

    public function test_an_empty_store_and_a_missing_cluster_say_what_to_do(): void
    {
        $this->actingAs($this->person());
        $this->get('/tune/statements')->assertOk()->assertSee('No cluster is known yet');
        foreach (['/tune/compare', '/tune/running', '/tune/imports', '/tend/clusters', '/ledger'] as $address) {
            $this->get($address)->assertOk();
        }
        $this->cluster();
        $this->get('/tune/statements')->assertOk()->assertSee('Import a file');
        $this->get('/tune/statements/'.str_repeat('0', 32))->assertNotFound();
        $this->get('/nowhere')->assertNotFound()->assertSee('nothing at this address');
    }

    /**
     * @param  list<array<string, mixed>>  $records
     */
    private function import(array $records): void
    {
        self::assertSame(
            0,
            Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']),
            Artisan::output(),
        );
    }
}
