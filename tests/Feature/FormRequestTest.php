<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Http\Requests as Access;
use App\Alerts\Http\Requests as Alerts;
use App\Alerts\Models\Alert;
use App\Backup\Http\Requests as Backup;
use App\Baseline\Http\Requests as Baseline;
use App\Clusters\Http\Requests as Clusters;
use App\Cost\Http\Requests as Cost;
use App\Encodings\Http\Requests as Encodings;
use App\Estate\Models\Cluster;
use App\Health\Http\Requests as Health;
use App\Jobs\Http\Requests as Jobs;
use App\Ledger\Http\Requests as Ledger;
use App\Limits\Http\Requests as Limits;
use App\Loading\Http\Requests as Loading;
use App\Metrics\Http\Requests as Metrics;
use App\Platform\Http\Requests as Platform;
use App\Platform\Support\Role;
use App\Profiles\Http\Requests as Profiles;
use App\Sessions\Http\Requests as Sessions;
use App\Settings\Http\Requests as Settings;
use App\Statements\Http\Requests as Statements;
use App\Storage\Http\Requests as Storage;
use App\Telemetry\Http\Requests as Telemetry;
use App\Tuning\Http\Requests as Tuning;
use App\Usage\Http\Requests as Usage;
use App\Workbench\Http\Requests as Workbench;
use Fulcrion\Core\Sql\Dialect;
use Illuminate\Contracts\Validation\Validator;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Illuminate\Support\Facades\Validator as Validators;
use Illuminate\Support\Str;
use PHPUnit\Framework\Attributes\Group;
use ReflectionMethod;
use Tests\TestCase;

/**
 * Every form takes what it should, and names the field that is wrong.
 */
#[Group('today')]
final class FormRequestTest extends TestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-20 10:00:00');
        $this->cluster();
        $this->person(Role::Viewer);
        $this->cluster('own', Dialect::MariaDb)->update(['connector' => 'mariadb']);
        DB::table('usage_teams')->insert(['name' => 'lab']);
        DB::table('account_schedules')->insert([
            'team' => 'lab', 'recipient' => 'known@brackenfold.example', 'day' => 2, 'made_by' => 'x', 'made_us' => 1,
        ]);
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    /**
     * @return array<class-string<FormRequest>, array{array<string, mixed>, array<string, list<mixed>>}> what is taken, and for each
     *     field what is not
     */
    private static function forms(): array
    {
        $long = static fn (int $length): string => str_repeat('x', $length + 1);
        $print = str_repeat('a1', 16);
        $file = static fn (int $kib): UploadedFile => UploadedFile::fake()->create('a.csv', $kib);

        return [
            Baseline\MeasureRequest::class => [
                ['host' => 'fern-04', 'seconds' => 5, 'space' => '1 GB', 'load' => 0.3, 'partner' => 'fern-05'],
                ['host' => [null, '', $long(120)], 'seconds' => [null, 0, 61, 'x'], 'space' => [null, '', 'x', '1 MB', '1 TB', ['x']],
                    'load' => [null, 0, 9, 'x'], 'partner' => ['a b', $long(120)]],
            ],
            Backup\KeepBackupsRequest::class => [
                ['log' => $file(10)],
                ['log' => [null, 'x', $file(30_000)]],
            ],
            Loading\KeepDeliveryRequest::class => [
                ['name' => 'nightly', 'log' => $file(10)],
                ['name' => [null, '', $long(120)], 'log' => [null, 'x', $file(30_000)]],
            ],
            Loading\SetLinkRequest::class => [
                ['name' => 'nightly', 'rate' => '100 Mbit/s'],
                ['name' => [null, '', $long(120)], 'rate' => [null, '', 'fast', '-1 MB/s', $long(40), ['x']]],
            ],
            Loading\TryLoadingRequest::class => [
                ['files' => 10, 'least' => '1 MB', 'most' => '2 MB', 'from' => '', 'to' => ''],
                ['files' => [null, 0, 501, 'x'], 'least' => [null, '', 'x', ['x']], 'most' => [null, '', 'x', '1 kB', '900 MB'],
                    'from' => ['/etc', '/nowhere', $long(400)], 'to' => ['/etc', '/nowhere', $long(400)]],
            ],
            Profiles\KeepProfileRequest::class => [
                ['name' => 'engine', 'file' => $file(10)],
                ['name' => [null, '', $long(120)], 'file' => [null, 'x', $file(400_000)]],
            ],
            Profiles\TakeProfileRequest::class => [
                ['name' => 'engine', 'cluster' => 'own', 'seconds' => 5, 'sql' => null],
                ['name' => [null, '', $long(120)], 'cluster' => [null, '', 'nowhere', 'fernhill'], 'seconds' => [0, 61, 'x'],
                    'sql' => [$long(20_000), ['x']]],
            ],
            Settings\ProposeSettingRequest::class => [
                ['host' => 'fern-04', 'setting' => 'vm.swappiness'],
                ['host' => [null, '', $long(120), ['x']], 'setting' => [$long(190), ['x']]],
            ],
            Settings\SaveProfileRequest::class => [
                ['text' => "name: x\nsettings:\n  vm.x:\n    is: 1\n    reason: so\n"],
                ['text' => [null, '', 'x', "name: x\nsettings: [", "\xff"], 'file' => ['x', $file(600)]],
            ],
            Metrics\PlaceRequest::class => [
                ['host' => 'db.brackenfold.example', 'port' => 3306, 'database' => 'readings', 'username' => 'keeper', 'secret' => 'a b',
                    'tls' => true],
                [
                    'host' => [null, '', 'http://db', 'a b', $long(190), '169.254.169.254'],
                    'port' => [null, 0, 65_536, 'x'],
                    'database' => [null, '', 'a.b', 'a`b', $long(64)],
                    'username' => [null, '', $long(80)],
                    'secret' => [null, '', $long(190)],
                    'tls' => ['perhaps'],
                ],
            ],
            Alerts\SaveAlertRequest::class => [
                ['cluster' => 'fernhill', 'name' => 'Busy', 'signal' => 'host:processors', 'urgent' => '1', 'second_minutes' => 5,
                    'second_user' => DB::table('users')->min('id')],
                [
                    'cluster' => [null, 'nowhere'],
                    'name' => [null, '', $long(120)],
                    'signal' => [null, '', $long(200)],
                    'urgent' => ['perhaps'],
                    'second_minutes' => [0, 1_441, 'soon'],
                    'second_user' => [999_999, 'x'],
                ],
            ],
            Alerts\HandIncidentRequest::class => [['to' => DB::table('users')->min('id')], ['to' => [null, 999_999, 'x']]],
            Alerts\NoteRequest::class => [['said' => 'A fan was broken.'], ['said' => [null, '', $long(4_000)]]],
            Alerts\MarkRequest::class => [
                ['cluster' => 'fernhill', 'when' => 'monday 06:30-09:00', 'mark' => 'slow'],
                ['cluster' => [null, 'nowhere'], 'when' => [null, '', $long(100)], 'mark' => [null, '', $long(120)]],
            ],
            Alerts\DeployRequest::class => [
                ['name' => 'loader 4.2', 'at' => '2026-11-26T11:00:00Z', 'link' => 'https://ci.brackenfold.example/7'],
                [
                    'name' => [null, '', $long(200)],
                    'at' => ['yesterday', '2026-13-01T00:00:00Z', '9999-01-01T00:00:00Z', '1970-01-01T00:00:00Z'],
                    'link' => ['javascript:x', $long(500)],
                ],
            ],
            Alerts\SilenceRequest::class => [
                ['cluster' => 'fernhill', 'alert' => self::alert(), 'host' => 'fern-01', 'when' => 'next 2 hours', 'repeats' => 'daily',
                    'reason' => 'work'],
                [
                    'cluster' => ['nowhere'],
                    'alert' => [999_999, 'x'],
                    'host' => [$long(120)],
                    'when' => [null, '', $long(100)],
                    'repeats' => ['hourly'],
                    'reason' => [null, '', $long(300)],
                ],
            ],
            Alerts\ImportSilencesRequest::class => [
                ['cluster' => 'fernhill', 'calendar' => UploadedFile::fake()->createWithContent('a.ics', 'BEGIN:VCALENDAR')],
                ['cluster' => ['nowhere'], 'calendar' => [null, 'x', UploadedFile::fake()->create('a.ics', 1_025)]],
            ],
            Metrics\AddScrapeRequest::class => [
                ['cluster' => 'fernhill', 'host' => 'fern-01', 'address' => 'https://192.0.2.7:9100/metrics', 'seconds' => 30],
                [
                    'cluster' => [null, 'nowhere', ['fernhill']],
                    'host' => [null, '', 'a b', $long(120), ['x']],
                    'address' => [null, 'fern-01', 'ftp://a/', 'http://', 'http://u:p@a/', 'http://169.254.169.254/', $long(500), ['x']],
                    'seconds' => [null, 9, 3_601, 'often'],
                ],
            ],
            Health\SetProbeRequest::class => [
                ['cluster' => 'fernhill', 'statement' => 'SELECT count(*) FROM field.pick', 'schema' => 'field', 'minutes' => 5],
                [
                    'cluster' => [null, 'nowhere', ['fernhill']],
                    'statement' => [null, '', ['x'], $long(4_000), 'DELETE FROM t', 'DROP TABLE t', 'CALL p()'],
                    'schema' => ['a b', "a'b", $long(64), ['x']],
                    'minutes' => [null, 0, 61, 'often', 1.5],
                ],
            ],
            Access\AddRemediesRequest::class => [
                ['items' => ['{}'], 'back' => '/guard/try'],
                [
                    'items' => [null, 'x', array_fill(0, 41, 'x')],
                    'items.0' => [['x'], $long(20_000)],
                    'back' => [null, 'https://elsewhere.example/guard/', '/ledger'],
                ],
            ],
            Access\AskForAccessRequest::class => [
                ['object' => 'fernhill.field.pick', 'reason' => 'The harvest report', 'until' => '2026-11-20'],
                ['object' => [null, $long(300)], 'reason' => [null, 'why', $long(1000)], 'until' => ['2026-11-18', '20.11.2026']],
            ],
            Access\AssignLabelRequest::class => [
                ['on' => 'fernhill.field.pick', 'key' => 'personal', 'value' => 'direct'],
                ['on' => [null, $long(300)], 'key' => [null, $long(120)], 'value' => [null, $long(190)]],
            ],
            Access\CheckConditionRequest::class => [
                ['type' => 'condition', 'text' => "labelled('personal')", 'scope' => 'fernhill'],
                ['type' => [null, 'filter'], 'text' => [$long(5000)], 'scope' => [$long(300)]],
            ],
            Access\DecideAccessRequest::class => [
                ['answer' => 'approved'],
                ['answer' => [null, 'maybe'], 'words' => [$long(1000)]],
            ],
            Access\DecideCampaignItemRequest::class => [
                ['items' => [1, 2], 'answer' => 'certified', 'note' => ''],
                ['items' => [null, 'x', range(1, 501)], 'items.0' => ['x'], 'answer' => [null, 'x'], 'note' => [$long(500)]],
            ],
            Access\DecideDetectionRequest::class => [
                ['paths' => ['a.b.c.d'], 'answer' => 'accepted', 'value' => 'direct'],
                ['paths' => [null, 'x'], 'paths.0' => [$long(300)], 'answer' => [null, 'x'], 'value' => [$long(190)]],
            ],
            Access\DiscardDraftRequest::class => [[], ['kind' => [['x']], 'name' => [$long(190)]]],
            Access\FixLabelRequest::class => [
                ['labels' => ['a'], 'value' => 'yes'],
                ['labels' => [null, 'x'], 'labels.0' => [$long(190)], 'value' => [null, $long(190)]],
            ],
            Access\FixRemarkRequest::class => [['findings' => [3]], ['findings' => [null, 'x'], 'findings.0' => ['x']]],
            Access\ImportPolicyRequest::class => [['file' => $file(1)], ['file' => [null, 'x', $file(16_385)]]],
            Access\PublishDraftRequest::class => [
                ['comment' => 'as agreed', 'digest' => $print],
                ['comment' => [null, 'ok', $long(1000)], 'digest' => [null, 'short']],
            ],
            Access\RemovePolicyItemRequest::class => [
                ['name' => 'a', 'revision' => 0],
                ['name' => [null, $long(190)], 'revision' => [null, 'x']],
            ],
            Access\RenameLabelRequest::class => [
                ['from' => 'personal', 'to' => 'about people'],
                ['from' => [null, $long(120)], 'to' => [null, 'personal', '-x', "a'b", $long(120)]],
            ],
            Access\RestoreVersionRequest::class => [[], ['comment' => [$long(1000)]]],
            Access\SavePolicyItemRequest::class => [
                ['name' => 'a', 'was' => 'b', 'revision' => 4, 'fields' => ['x' => 'y']],
                ['name' => [$long(190)], 'was' => [$long(190)], 'revision' => [null, -1], 'fields' => ['x']],
            ],
            Access\StartCampaignRequest::class => [
                ['title' => 'Autumn', 'due' => '2026-12-01', 'below' => '', 'whom' => 'all'],
                [
                    'title' => [null, $long(200)],
                    'due' => [null, '2026-11-18', 'soon'],
                    'below' => [$long(300)],
                    'whom' => [null, 'nobody'],
                ],
            ],
            Encodings\ProposeEncodingsRequest::class => [
                ['variant' => 'small', 'older' => 30],
                ['variant' => [null, $long(20)], 'older' => [-1, 3651, 'x']],
            ],
            Encodings\StartLabRequest::class => [
                ['table' => 'field.pick'],
                ['table' => [null, $long(300)], 'file' => ['x', $file(262_145)]],
            ],
            Clusters\AddClusterRequest::class => [
                [
                    'name' => 'Wren',
                    'connector' => 'mariadb',
                    'role' => 'production',
                    'host' => 'db.brackenfold.example',
                    'port' => 3306,
                    'username' => 'reader',
                    'secret' => 'x',
                ],
                [
                    'name' => [null, $long(120)],
                    'connector' => [null, 'oracle of the hills'],
                    'role' => [null, $long(60)],
                    'host' => [null, 'http://db/path', 'a b'],
                    'port' => [null, 0, 65_536],
                    'username' => [null, $long(80)],
                    'secret' => [null, $long(190)],
                    'tls' => ['perhaps'],
                    'ender_username' => ['reader', $long(80)],
                    'ender_secret' => [$long(190)],
                ],
            ],
            Clusters\AddTokenRequest::class => [
                ['token_name' => 'loader', 'may' => 'usage:read'],
                ['token_name' => [null, $long(100)], 'may' => ['*', 'executions:read']],
            ],
            Clusters\SaveClusterRequest::class => [
                ['name' => 'Fernhill', 'role' => 'production', 'retention_days' => 90, 'sample_days' => 14],
                [
                    'name' => [null, $long(120)],
                    'role' => [null, $long(60)],
                    'retention_days' => [null, 1, 3651],
                    'sample_days' => [null, 0, 3651],
                    'paused' => ['perhaps'],
                ],
            ],
            Sessions\StopSessionRequest::class => [
                ['session' => 7, 'act' => 'cancel', 'statement' => str_repeat('a', 32)],
                ['session' => [null, 0, 'x'], 'act' => [null, 'restart'], 'statement' => [null, 'x', str_repeat('A', 32)]],
            ],
            Jobs\JobAimRequest::class => [
                ['aim' => 'cheapest'],
                ['aim' => [null, 'best'], 'deadline' => ['24:00', '4 am'], 'budget' => [0, 'x']],
            ],
            Jobs\JobAtWorkersRequest::class => [
                ['workers' => 40, 'parts' => 100, 'order' => 'recorded'],
                ['workers' => [null, 0, 'x'], 'parts' => [9, 2001], 'order' => ['x']],
            ],
            Jobs\JobElasticRequest::class => [
                ['within' => 2.5, 'step' => 10, 'delay' => 30, 'hold' => 60],
                ['within' => [0, 'x'], 'step' => [0, 10_001], 'delay' => [-1, 86_401], 'hold' => [0, 86_401]],
            ],
            Jobs\PinWorkersRequest::class => [
                ['workers' => 40, 'reason' => 'as the curve says'],
                ['workers' => [null, 0], 'reason' => [null, $long(200)]],
            ],
            Jobs\RunJobAgainRequest::class => [['workers' => 4], ['workers' => [0, 'x']]],
            Jobs\SendJobRecordRequest::class => [
                ['cluster' => 'fernhill', 'file' => $file(1), 'name' => 'nightly', 'workers' => 8, 'worker_price' => 0.4],
                [
                    'cluster' => [null, 'nowhere'],
                    'file' => [null, 'x'],
                    'name' => [$long(190)],
                    'workers' => [0, 1_000_001],
                    'worker_price' => [-1, 'x'],
                ],
            ],
            Ledger\ChooseStatementsRequest::class => [
                ['statements' => [$print], 'copy_share' => 10],
                [
                    'statements' => [null, array_fill(0, 26, $print)],
                    'statements.0' => ['DROP'],
                    'copy_share' => [null, 0, 101],
                    'rehearse_on' => [99, 'x'],
                ],
            ],
            Ledger\SubscribeRequest::class => [
                ['kind' => 'mail', 'target' => 'team@brackenfold.example', 'digest' => '1'],
                [
                    'kind' => [null, 'pigeon'], 'target' => [null, 'https://hooks.example', $long(500)], 'digest' => ['perhaps'],
                    'hears' => ['nobody'],
                ],
            ],
            Ledger\DismissFindingRequest::class => [
                ['reason' => 'a table of tests', 'until' => '2026-12-01'],
                ['reason' => [null, 'ok', $long(1000)], 'until' => [null, 'next year']],
            ],
            Cost\AddPriceRequest::class => [
                ['kind' => 'node_hour', 'amount' => '1.20', 'quantity' => '12', 'from' => '2026-11-15 13:30'],
                [
                    'kind' => [null, 'gold'],
                    'name' => [$long(130)],
                    'amount' => [null, '-1', '1,2', '1e3', 'much'],
                    'quantity' => ['-1', 'few'],
                    'above' => ['-1', 'x'],
                    'from' => [null, 'soon', '2026-13-01'],
                    'is_reserved' => ['perhaps'],
                ],
            ],
            Cost\AddQuantityRequest::class => [
                ['kind' => 'backup_gib_month', 'name' => '', 'quantity' => '12.5', 'from' => '2026-11-01', 'to' => '2026-11-02'],
                [
                    'kind' => [null, 'node_hour', 'x'], 'name' => [$long(120)], 'quantity' => [null, '-1', '1,5', '1e3'],
                    'from' => [null, 'soon'], 'to' => ['2026-10-31', 'x'],
                ],
            ],
            Cost\ReserveRequest::class => [
                ['team' => 'lab', 'percent' => '12.5', 'from' => '2026-11-01', 'to' => '2026-11-02'],
                [
                    'team' => [null, $long(120)], 'percent' => [null, '0', '0.00', '100.1', '-1', 'half'], 'from' => [null, 'soon'],
                    'to' => ['2026-10-31', 'x'],
                ],
            ],
            Cost\SetBudgetRequest::class => [
                [
                    'of' => 'estate', 'period' => 'quarter', 'amount' => '1200.5', 'currency' => 'EUR', 'from' => '2026-12',
                    'shares' => '50, 80 %', 'recipient' => 'ada@example.org',
                ],
                [
                    'of' => [null, 'team:nobody'], 'period' => [null, 'year'], 'amount' => [null, '-1', '1,5'],
                    'currency' => [null, 'eur'], 'from' => [null, '2026-13', '2026-11-01'], 'shares' => ['x', '1000', '50;80'],
                    'recipient' => ['nobody', $long(190)],
                ],
            ],
            Limits\AddAllowanceRequest::class => [
                [
                    'cluster' => 'fernhill', 'measure' => 'burst', 'per_day' => '1.5', 'cap' => '30', 'start' => '',
                    'from' => '2026-11-01', 'price' => '2.50', 'currency' => 'EUR',
                ],
                [
                    'cluster' => [null, 'nowhere'], 'measure' => [null, 'hope'], 'per_day' => [null, '-1', '1,5'],
                    'cap' => [null, '0', 'x'],
                    'start' => ['x'], 'from' => [null, '2026-13-01', '1999-01-01'], 'price' => ['-1', 'x'], 'currency' => [null, 'eur'],
                ],
            ],
            Limits\ChangeLimitRequest::class => [
                [
                    'amount' => '2 TiB', 'note' => '50', 'tell' => '80 %', 'hold' => '100', 'recipient' => 'ada@example.org',
                    'webhook' => '', 'ask' => 'the platform team',
                ],
                [
                    'amount' => [null, $long(40)], 'note' => ['half', '-1'], 'tell' => ['1000', '50, 80'], 'hold' => ['50.5'],
                    'recipient' => ['nobody', $long(190)], 'webhook' => ['999', 'x'], 'ask' => [$long(190)],
                ],
            ],
            Limits\SetLimitRequest::class => [
                ['of' => 'cluster fernhill', 'measure' => 'time', 'period' => 'statement', 'amount' => '10 min', 'hold' => '100'],
                [
                    'of' => [null, 'fernhill', 'cluster nowhere', 'planet mars', $long(210)], 'measure' => [null, 'errors'],
                    'period' => [null, 'year'], 'amount' => [null, '10', '10 GB', 'long'], 'note' => ['x'], 'tell' => ['x'],
                    'hold' => ['x'], 'recipient' => ['nobody'], 'webhook' => ['x'], 'ask' => [$long(190)],
                ],
            ],
            Limits\LimitAccountRequest::class => [
                ['account' => 'ada', 'time' => '30 s', 'queries' => '5000'],
                ['account' => [null, $long(128)], 'time' => ['soon', '0.5 ms'], 'queries' => ['0', 'many', '1.5']],
            ],
            Limits\LiftLimitRequest::class => [
                ['until' => '2026-11-20 18:00', 'reason' => 'the auditors wait'],
                ['until' => [null, 'later', '2026-11-01 10:00', '2027-11-01 10:00', '900 h'], 'reason' => [null, 'x', $long(500)]],
            ],
            Cost\SetCostRuleRequest::class => [
                ['currency' => 'EUR', 'follows' => 'cpu_us', 'idle' => 'own_line'],
                ['currency' => [null, 'eur', 'EURO'], 'follows' => [null, 'errors'], 'idle' => [null, 'away']],
            ],
            Cost\ReadBillRequest::class => [
                ['file' => UploadedFile::fake()->createWithContent('bill.csv', 'x'), 'rate' => '0.92', 'rate_on' => '2026-11-28'],
                [
                    'file' => [null, 'bill.csv'],
                    'rate' => ['0', '0,92', '-1', 'much', '1e3'],
                    'rate_on' => ['28.11.2026', '2026-11-31'],
                    'in_place' => ['perhaps'],
                ],
            ],
            Cost\MatchResourceRequest::class => [
                ['resource' => 'elsewhere', 'cluster' => 'fernhill'],
                ['resource' => [$long(210)], 'cluster' => [null, 'nowhere']],
            ],
            Cost\ScheduleAccountRequest::class => [
                ['team' => 'lab', 'recipient' => 'head@brackenfold.example', 'day' => '2'],
                [
                    'team' => [null, 'nowhere'],
                    'recipient' => [null, 'head', $long(190).'@x.example', 'known@brackenfold.example'],
                    'day' => [null, '0', '29', 'first', '1.5'],
                ],
            ],
            Usage\RemakeDaysRequest::class => [
                ['from' => '2026-11-01', 'to' => '2026-11-03'],
                ['from' => [null, 'soon', '1.11.2026'], 'to' => [null, 'soon', '2026-10-31']],
            ],
            Usage\SetZoneRequest::class => [
                ['zone' => 'Europe/Berlin'],
                ['zone' => [null, 'Mars/Olympus', '+02:00']],
            ],
            Usage\LimitViewerRequest::class => [
                ['all' => '1', 'teams' => ['lab']],
                ['all' => ['perhaps'], 'teams' => ['lab', array_fill(0, 201, 'x')], 'teams.0' => [$long(130)]],
            ],
            Usage\KeepViewRequest::class => [
                ['name' => 'by team', 'query' => 'rows=team&columns=day'],
                ['name' => [null, $long(130)], 'query' => [null, 'a b', '"><script>', $long(2100)]],
            ],
            Platform\AddPersonRequest::class => [
                ['name' => 'Ines', 'email' => 'ines@brackenfold.example', 'role' => 'viewer'],
                [
                    'name' => [null, $long(120)],
                    'email' => [null, 'ines', 'viewer@brackenfold.example'],
                    'role' => [null, 'king'],
                ],
            ],
            Platform\ChangePasswordRequest::class => [
                [
                    'current_password' => 'a long password',
                    'password' => 'lamp seven orchard',
                    'password_confirmation' => 'lamp seven orchard',
                ],
                ['current_password' => [null, 'another'], 'password' => [null, 'short', 'not the same as below', $long(190)]],
            ],
            Platform\SaveAccountRequest::class => [
                ['name' => 'Ines', 'time_zone' => 'Europe/Berlin', 'theme' => 'night'],
                ['name' => [null, $long(120)], 'time_zone' => [null, 'Europe/Fernhill'], 'theme' => [null, 'dusk']],
            ],
            Platform\SavePersonRequest::class => [
                ['role' => 'engineer', 'disabled' => '0', 'new_password' => '0'],
                ['role' => [null, 'king'], 'disabled' => ['perhaps'], 'new_password' => ['perhaps'], 'policy_person' => ['a stranger']],
            ],
            Platform\SignInRequest::class => [
                ['email' => 'a@brackenfold.example', 'password' => 'x'],
                ['email' => [null, ['x'], $long(190)], 'password' => [null, ['x'], $long(190)]],
            ],
            Statements\MakePlanRequest::class => [
                ['cluster' => 'fernhill', 'mode' => 'explain'],
                ['cluster' => [null, 'nowhere'], 'mode' => [null, 'guess']],
            ],
            Statements\SendPlanRequest::class => [
                ['cluster' => 'fernhill', 'json' => '{}', 'sql' => 'SELECT 1'],
                ['cluster' => [null, 'nowhere'], 'file' => ['x', $file(4097)], 'json' => [$long(4_000_000)], 'sql' => [$long(200_000)]],
            ],
            Storage\CollectStatisticsRequest::class => [['parallel' => 2], ['parallel' => [null, 0, 9]]],
            Storage\DropRollupRequest::class => [['name' => 'a'], ['name' => [null, $long(200)]]],
            Storage\ProposeLayoutRequest::class => [['kind' => 'together'], ['kind' => [null, 'x']]],
            Storage\ProposeRollupsRequest::class => [
                ['space' => 1.5, 'rollups' => ['a']],
                ['space' => [null, -1], 'rollups' => [null, 'x', array_fill(0, 21, 'a')], 'rollups.0' => [$long(200)]],
            ],
            Storage\RefreshRollupRequest::class => [['name' => 'a'], ['name' => [null, $long(200)]]],
            Storage\SaveMaintenancePlanRequest::class => [
                [
                    'acts' => ['compact'],
                    'when' => 'needed',
                    'small' => 0.2,
                    'depth' => 3,
                    'changed' => 0.1,
                    'expire_days' => 7,
                    'keep' => 2,
                    'hours_from' => 0,
                    'hours_to' => 24,
                ],
                [
                    'acts' => [null, 'x'],
                    'acts.0' => ['dance'],
                    'when' => [null, 'x'],
                    'cron' => [$long(60)],
                    'small' => [null, 1.1],
                    'depth' => [null, 0],
                    'changed' => [null, 1001],
                    'expire_days' => [null, 3651],
                    'keep' => [null, 0],
                    'hours_from' => [null, 24],
                    'hours_to' => [null, 0, 25],
                ],
            ],
            Storage\SaveRuleRequest::class => [
                ['thresholds' => ['rows' => 1000, 'skew' => 1.5]],
                ['thresholds.rows' => [null], 'thresholds.skew' => [null, -1, 'x', 1_000_000_000_001], 'off' => ['perhaps']],
            ],
            Storage\SendTableFileRequest::class => [
                ['path' => 'inbox/table'],
                ['path' => [null, $long(500)], 'zip' => ['x']],
            ],
            Telemetry\SendImportRequest::class => [
                ['cluster' => 'fernhill', 'file' => $file(1)],
                ['cluster' => [null, 'nowhere'], 'file' => [null, 'x']],
            ],
            Tuning\ApplyRemediesRequest::class => [['changes' => [1]], ['changes' => [null, 'x'], 'changes.0' => ['x']]],
            Tuning\AskRewritesRequest::class => [
                ['cluster' => 'fernhill', 'sql' => 'SELECT 1'],
                ['cluster' => [null, $long(100)], 'schema' => [$long(200)], 'sql' => [null, $long(100_000)], 'fingerprint' => ['xyz']],
            ],
            Tuning\ProposeIndexRequest::class => [
                ['table' => 'field.pick', 'index' => 'bay'],
                ['table' => [null, $long(200)], 'index' => [null, $long(100)]],
            ],
            Tuning\StartTuningRequest::class => [
                [
                    'cluster' => 'fernhill',
                    'which' => 'chosen',
                    'statements' => [$print],
                    'minutes' => 30,
                    'gib' => 10,
                    'when' => 'night',
                    'at' => '02:30',
                    'apply' => '1',
                ],
                [
                    'cluster' => [null, $long(100)],
                    'which' => [null, 'x'],
                    'statements' => [null, 'x'],
                    'statements.0' => ['x'],
                    'minutes' => [null, 0, 601],
                    'gib' => [null, -1],
                    'when' => [null, 'x'],
                    'at' => ['25:00'],
                    'apply' => ['perhaps'],
                ],
            ],
            Workbench\ReceiveFileRequest::class => [
                ['cluster' => 'fernhill', 'file' => $file(1)],
                ['cluster' => [null, 'nowhere'], 'file' => [null, 'x', $file(65_537)]],
            ],
            Workbench\RunStatementsRequest::class => [
                [
                    'cluster' => 'fernhill',
                    'schema' => 'field',
                    'sql' => 'SELECT 1',
                    'mode' => 'run',
                    'key' => (string) Str::uuid(),
                    'at' => 0,
                    'which' => 'all',
                ],
                [
                    'cluster' => [null, 'nowhere'],
                    'schema' => [$long(64)],
                    'sql' => [null, $long(200_000)],
                    'mode' => [null, 'guess'],
                    'key' => [null, 'x'],
                    'at' => [-1, 'x'],
                    'which' => ['some'],
                ],
            ],
        ];
    }

    private static function alert(): int
    {
        return Alert::query()->firstOrCreate(['name' => 'of a silence'], [
            'cluster_id' => DB::table('clusters')->min('id'), 'signal' => 'load:waiting', 'watched' => 'value', 'side' => 'above',
            'threshold' => 1.0, 'calm' => 1.0, 'for_seconds' => 0, 'calm_seconds' => 0, 'is_urgent' => false, 'is_on' => false,
            'made_by' => 'x',
        ])->id;
    }

    public function test_each_form_takes_what_is_right_and_names_each_field_that_is_wrong(): void
    {
        $root = dirname(__DIR__, 2);
        $paths = File::glob("{$root}/app/*/Http/Requests/*Request.php");
        foreach ($paths as $path) {
            $class = 'App\\'.str_replace('/', '\\', substr($path, strlen("{$root}/app/"), -4));
            [$right, $wrong] = self::forms()[$class] ?? self::fail("{$class} has no case here.");
            [$all, $fields] = $this->validator($class, $right);
            self::assertSame([], $all->errors()->toArray(), "{$class}: what is right is taken");
            foreach ($fields as $field) {
                self::assertArrayHasKey(str_replace('*', '0', $field), $wrong, "{$class}: no wrong value of {$field} is tried");
            }
            foreach ($wrong as $field => $values) {
                foreach ($values as $value) {
                    $given = $right;
                    data_set($given, $field, $value);
                    $errors = $this->validator($class, $given)[0]->errors()->toArray();
                    $tried = "{$class}: {$field} as ".mb_substr((string) json_encode($value), 0, 60);
                    self::assertArrayHasKey($field, $errors, $tried);
                    self::assertMatchesRegularExpression('~[.!]$~', $errors[$field][0], "{$tried}: a sentence");
                }
            }
        }
        self::assertCount(count(self::forms()), $paths);
    }

    public function test_what_depends_on_another_field_is_asked_for_with_it_alone(): void
    {
        $wrong = fn (string $class, array $data): array => $this->validator($class, $data)[0]->errors()->keys();
        self::assertSame(['words'], $wrong(Access\DecideAccessRequest::class, ['answer' => 'declined']));
        self::assertSame(['deadline'], $wrong(Jobs\JobAimRequest::class, ['aim' => 'deadline']));
        self::assertSame(['budget'], $wrong(Jobs\JobAimRequest::class, ['aim' => 'budget']));
        self::assertSame([], $wrong(Ledger\SubscribeRequest::class, ['kind' => 'webhook', 'target' => 'https://hooks.example/1']));
        self::assertSame(['target'], $wrong(Ledger\SubscribeRequest::class, ['kind' => 'webhook', 'target' => 'a@hooks.example']));
        self::assertSame(
            ['dialect'],
            $wrong(Clusters\AddClusterRequest::class, ['name' => 'Files', 'connector' => 'files', 'role' => 'archive']),
        );
        $kept = ['name' => 'Fernhill', 'role' => 'production', 'retention_days' => 90, 'sample_days' => 14];
        Cluster::query()->update(['connector' => 'mariadb']);
        self::assertSame(['interval_seconds', 'host', 'port', 'username'], $wrong(Clusters\SaveClusterRequest::class, $kept));
    }

    /**
     * @param  class-string<FormRequest>|string  $class
     * @param  array<string, mixed>  $data
     * @return array{Validator, list<string>} and the fields it knows
     */
    private function validator(string $class, array $data): array
    {
        $request = new $class();
        assert($request instanceof FormRequest);
        $request->merge($data);
        $person = $this->person(Role::Viewer);
        $this->actingAs($person);
        $request->setUserResolver(static fn () => $person);
        $parameters = ['cluster' => Cluster::query()->firstOrFail(), 'user' => $person, 'rule' => 'skew'];
        $request->setRouteResolver(static fn (): object => new class($parameters)
        {
            /** @param  array<string, mixed>  $parameters */
            public function __construct(private readonly array $parameters)
            {
            }

            public function parameter(string $name, mixed $default = null): mixed
            {
                return $this->parameters[$name] ?? $default;
            }
        });
        /** @var array<string, mixed> $rules */
        $rules = app()->call((new ReflectionMethod($request, 'rules'))->getClosure($request));

        return [Validators::make($data, $rules, $request->messages()), array_keys($rules)];
    }
}
