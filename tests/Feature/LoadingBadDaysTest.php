<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Capacity\Application\CapacityFindings;
use App\Capacity\Application\CapacityMeter;
use App\Capacity\Application\CapacityStore;
use App\Capacity\Application\StoragePlaces;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use App\Loading\Application\BringFiles;
use App\Loading\Application\DeliveryBook;
use App\Loading\Application\LoadingFindings;
use App\Loading\Models\LoadTrial;
use App\Metrics\Store\PointStore;
use App\Platform\Runs\BrokenRuns;
use App\Platform\Support\Role;
use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StorageReading;
use Fulcrion\Core\Capacity\StoredPart;
use Fulcrion\Core\Loading\TransferMeasure;
use Fulcrion\Core\Metrics\ProcText;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\File;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Deliveries and storage on bad days: trials that are stopped, killed or cannot write, deliveries with nothing in them, parts that appear
 * and go, days nobody measured.
 */
#[Group('today')]
final class LoadingBadDaysTest extends TestCase
{
    private const DAY = 86_400;

    private Cluster $fern;

    protected function setUp(): void
    {
        parent::setUp();
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        mkdir((string) config('fulcrion.practice'));
        Warehouse::create(PracticeClusters::root('fernhill'), 'Fernhill', 4, new HardwareProfile());
        $this->fern = Cluster::query()
            ->create(['slug' => 'fernhill', 'name' => 'Fernhill', 'role' => 'production', 'connector' => 'practice',
                'dialect' => Dialect::Ansi])->refresh();
        $this->actingAs($this->person(Role::Owner));
    }

    /**
     * @param  array<string, mixed>  $plan
     */
    private function trial(string $state, array $plan = []): LoadTrial
    {
        return LoadTrial::query()->create(['cluster_id' => $this->fern->id, 'state' => $state, 'asked_us' => 1, 'asked_by' => 'x',
            'heartbeat_us' => 1, 'plan' => $plan + ['files' => 4, 'least' => 1_000, 'most' => 2_000, 'from' => '', 'to' => '']]);
    }

    public function test_a_trial_that_is_stopped_leaves_nothing_behind(): void
    {
        $trial = $this->trial('waiting');
        $this->post("/tend/loading/trials/{$trial->id}/stop")->assertRedirect();
        BringFiles::dispatchSync($trial->id);
        $trial->refresh();
        self::assertSame('stopped', $trial->state);
        self::assertSame([], File::glob(PracticeClusters::root('fernhill').'/inbox/*'));
        self::assertDirectoryDoesNotExist(storage_path("app/trials/{$trial->id}"));
    }

    public function test_a_folder_that_is_gone_by_then_is_told_in_words(): void
    {
        $trial = $this->trial('waiting', ['to' => '/nowhere/at/all']);
        BringFiles::dispatchSync($trial->id);
        $trial->refresh();
        self::assertSame('failed', $trial->state);
        self::assertStringContainsString('could not be written into the folder', (string) $trial->error);
        $this->get('/tend/loading?cluster=fernhill')->assertOk()->assertSee('could not be written into the folder');
        // What was begun already, or is over, is not begun again.
        foreach (['running', 'done', 'failed'] as $state) {
            $other = $this->trial($state);
            BringFiles::dispatchSync($other->id);
            self::assertSame($state, $other->refresh()->state);
        }
        BringFiles::dispatchSync(99_999);
    }

    public function test_a_trial_whose_process_was_killed_is_ended(): void
    {
        $trial = $this->trial('running');
        iterator_to_array(app(BrokenRuns::class)->recover(), false);
        self::assertSame('failed', $trial->refresh()->state);
        self::assertStringContainsString('Its process was killed', (string) $trial->error);
        // So that another one can be tried.
        $this->post('/tend/loading/fernhill/try', ['files' => 2, 'least' => '1 kB', 'most' => '2 kB'])->assertSessionMissing('failed');
    }

    public function test_deliveries_that_say_nothing_are_no_findings(): void
    {
        $book = app(DeliveryBook::class);
        $now = time();
        self::assertNull($book->keep($this->fern, 'empty', []));
        // Nothing came, for an hour.
        $book->keepMeasure($this->fern, 'idle', $now - 3_600, new TransferMeasure(1, 0, 3_600.0, 1.0, 3_600.0, null), 0, 0);
        // It is slow, but only minutes are to be gained.
        $book->keepMeasure($this->fern, 'short', $now - 3_600, new TransferMeasure(10, 1_000_000, 60.0, 1.0, 6.0, null), 1, 1);
        // It is long, and its link is full.
        $book->keepMeasure($this->fern, 'full', $now - 3_600, new TransferMeasure(100, 3_600_000_000, 3_600.0, 4.0, 0.0, 250_000.0), 1, 1);
        $book->setLink($this->fern, 'full', 1_000_000.0, 'x', 1);
        app(LoadingFindings::class)->report($this->fern, $now);
        self::assertSame([], Finding::query()->where('source', LoadingFindings::SOURCE)->pluck('object')->all());
    }

    public function test_the_middle_of_the_last_week_counts_and_not_one_bad_night(): void
    {
        $book = app(DeliveryBook::class);
        $now = time();
        $night = static fn (float $seconds): TransferMeasure => new TransferMeasure(100, 1_000_000_000, $seconds, 1.0, $seconds / 100,
            null);
        for ($day = 1; $day <= 7; $day++) {
            $book->keepMeasure($this->fern, 'nightly', $now - $day * self::DAY, $night($day === 3 ? 7_200.0 : 300.0), 1, 1);
        }
        $book->setLink($this->fern, 'nightly', 12_500_000.0, 'x', 1);
        app(LoadingFindings::class)->report($this->fern, $now);
        self::assertSame(0, Finding::query()->where('source', LoadingFindings::SOURCE)->where('state', 'open')->count());
        for ($day = 1; $day <= 4; $day++) {
            $book->keepMeasure($this->fern, 'nightly', $now - $day * self::DAY, $night(7_200.0), 1, 1);
        }
        app(LoadingFindings::class)->report($this->fern, $now);
        self::assertSame(1, Finding::query()->where('source', LoadingFindings::SOURCE)->where('state', 'open')->count());
    }

    public function test_parts_that_appear_and_go_are_the_causes_of_steps(): void
    {
        $store = app(CapacityStore::class);
        $now = time() - time() % self::DAY + 3_600;
        $used = 1e12;
        for ($day = 30; $day >= 0; $day--) {
            $at = $now - $day * self::DAY;
            $used += $day === 20 ? 5e11 : ($day === 10 ? -4e11 : 0.0);
            $store->keep($this->fern->id, CapacityStore::WHOLE, new StorageReading($at, $used, 1e13));
            $parts = [new StoredPart(PartKind::Table, 's.old', 1e12)];
            if ($day <= 20) {
                $parts[] = new StoredPart(PartKind::Table, 's.new', $day <= 10 ? 1e11 : 5e11);
            }
            $store->keepParts($this->fern->id, $at, $parts);
        }
        $places = app(StoragePlaces::class);
        $place = $places->of($this->fern, $now)[0];
        self::assertSame([5e11, -4e11], array_map(static fn ($one): float => $one->bytes, $place->steps));
        $causes = array_values($places->causes($this->fern, $place->steps));
        self::assertSame([['s.new', 5e11], ['s.new', -4e11]],
            array_map(static fn (StoredPart $one): array => [$one->name(), $one->bytes], $causes));
        self::assertSame(['s.new'], array_map(static fn (StoredPart $one): string => $one->name(), $places->grown($this->fern, $now)));
        self::assertSame(1, $place->forecast?->cleanUps);
        $this->get('/tend/storage?cluster=fernhill')->assertOk()->assertSee('−');
    }

    public function test_a_file_system_that_is_made_larger_is_no_finding_any_more(): void
    {
        $store = app(CapacityStore::class);
        $now = time();
        for ($day = 28; $day >= 0; $day--) {
            $store->keep($this->fern->id, 'fern-01 /data', new StorageReading($now - $day * self::DAY, (100.0 - $day) * 1e9, 110e9));
        }
        app(CapacityFindings::class)->report($this->fern, $now);
        $finding = Finding::query()->where('source', CapacityFindings::SOURCE)->firstOrFail();
        self::assertSame('fern-01 /data', $finding->object);
        self::assertTrue($finding->urgent, 'in ten days');
        $store->keep($this->fern->id, 'fern-01 /data', new StorageReading($now, 100e9, 900e9));
        app(CapacityFindings::class)->report($this->fern, $now);
        self::assertSame('solved', $finding->refresh()->state->value);
        $place = app(StoragePlaces::class)->of($this->fern, $now)[0];
        self::assertSame(900e9, $place->resized()?->limitBytes);
        self::assertEqualsWithDelta(1 / 9, $place->share(), 1e-9);
    }

    public function test_a_cluster_whose_files_are_broken_is_told_and_others_are_measured(): void
    {
        $barn = $this->cluster('barn');
        $points = app(PointStore::class);
        $points->take($barn->id, 'barn-1', (time() - 60) * 1_000, ProcText::fileSystem('/', 100.0, 40.0));
        file_put_contents(PracticeClusters::root('fernhill').'/nodes.json', 'x');
        self::assertSame(1, Artisan::call('capacity:measure'));
        self::assertCount(1, app(StoragePlaces::class)->of($barn, time() + 1));
        self::assertSame(0.6, app(StoragePlaces::class)->of($barn, time() + 1)[0]->share());
        self::assertSame(1, app(CapacityMeter::class)->measure($barn, time()));
    }

    public function test_what_was_not_measured_for_days_is_not_shown_as_of_now(): void
    {
        $now = time();
        app(CapacityStore::class)->keep($this->fern->id, 'gone /', new StorageReading($now - 3 * self::DAY, 1.0, 2.0));
        self::assertSame([], app(StoragePlaces::class)->of($this->fern, $now));
        self::assertCount(1, app(StoragePlaces::class)->of($this->fern, $now - 2 * self::DAY));
    }
}
