<?php

declare(strict_types=1);

namespace App\Encodings\Http;

use App\Encodings\Application\LabPage;
use App\Encodings\Application\RunLab;
use App\Encodings\Http\Requests\ProposeEncodingsRequest;
use App\Encodings\Http\Requests\StartLabRequest;
use App\Encodings\Models\LabRun;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Estate\Pricing\MoneyRates;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\ChosenStatements;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Telemetry\Workload\EstateReader;
use Fulcrion\Core\Storage\TableChangeKind;
use Fulcrion\Core\Text\Parts;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\UploadedFile;

/**
 * The encoding lab: what tables and files would take stored in other ways.
 */
final readonly class EncodingController
{
    public function __construct(private EstateReader $reader, private MoneyRates $rates)
    {
    }

    public function index(Request $request): View
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::productionFirst()->where('connector', 'practice')->get()->all();
        $tables = [];
        foreach ($clusters as $cluster) {
            try {
                foreach ($this->reader->outlines($cluster) as $name => $layout) {
                    if ($layout->chunks > 0) {
                        $tables["{$cluster->slug}:{$name}"] = [$cluster->name, $layout];
                    }
                }
            } catch (SourceError) {
                // A cluster without files has no tables to choose from.
                continue;
            }
        }
        uasort($tables, static fn (array $a, array $b): int => $b[1]->storedBytes <=> $a[1]->storedBytes);

        return view('encodings.encodings', [
            'tables' => $tables,
            'runs' => LabRun::query()->with('cluster')->orderByDesc('id')->limit(50)->get(),
        ]);
    }

    public function start(StartLabRequest $request, #[CurrentUser] User $user, Ledger $ledger): RedirectResponse
    {
        $data = $request->validated();
        $file = $request->file('file');
        $path = '';
        $cluster = null;
        if ($file instanceof UploadedFile) {
            $object = mb_strcut($file->getClientOriginalName(), 0, 300);
            $folder = storage_path('app/lab');
            is_dir($folder) || mkdir($folder, 0700, true);
            $path = $file->move($folder, bin2hex(random_bytes(12)))->getPathname();
        } else {
            [$slug, $object] = explode(':', (string) $data['table'], 2) + [1 => ''];
            $cluster = Cluster::query()->where('slug', $slug)->where('connector', 'practice')->first();
            if (! ($cluster instanceof Cluster) || ! isset($this->reader->outlines($cluster)[$object])) {
                return redirect(address('encoding.index'))->withErrors(['table' => 'There is no such table any more; choose another.']);
            }
        }
        $run = LabRun::query()->create([
            'cluster_id' => $cluster?->id,
            'object' => $object,
            'state' => 'waiting',
            'progress' => 'waiting for a worker',
            'asked_us' => Clock::microseconds(),
            'asked_by' => $user->name,
            'heartbeat_us' => Clock::microseconds(),
        ]);
        $ledger->record($user, 'stored a sample every way', $object, ['cluster' => $cluster?->slug]);
        RunLab::dispatch($run->id, $path);

        return redirect(address('encoding.show', $run->id));
    }

    public function show(Request $request, LabRun $run): View
    {
        $run->load('cluster');
        if ($request->header('HX-Target') === 'lab-progress') {
            return view('encodings.encoding-progress', ['run' => $run]);
        }

        return view('encodings.encoding', [
            'run' => $run,
            'page' => $run->state === 'done' ? $this->page($run, $request) : null,
        ]);
    }

    private function page(LabRun $run, Request $request): LabPage
    {
        return new LabPage($run, $request, $this->reader, $run->cluster === null ? null : $this->rates->of($run->cluster));
    }

    public function stop(Request $request, LabRun $run): RedirectResponse
    {
        $run->askToStop();

        return redirect(address('encoding.show', $run->id));
    }

    public function propose(ProposeEncodingsRequest $request, #[CurrentUser] User $user, LabRun $run, Changes $changes): RedirectResponse
    {
        $data = $request->validated();
        $back = redirect(address('encoding.show', $run->id));
        $cluster = $run->cluster;
        if ($cluster === null || $run->state !== 'done') {
            return $back->with('failed', 'A file cannot be rewritten from here; only tables of a cluster can.');
        }
        $page = $this->page($run, $request);
        $variant = $page->byKey($data['variant']);
        $layouts = $this->reader->shown($user, $cluster);
        $table = $layouts[$run->object] ?? null;
        $sql = $variant === null || $table === null ? null : $page->statement($variant, $table, (int) ($data['older'] ?? 0));
        if ($variant === null || $table === null || $sql === null) {
            return $back->with('failed', 'This way cannot be applied: chunks hold columns. Choose one of those that write columns.');
        }
        $estate = $this->reader->estate($cluster, $layouts, $run->object);
        $saved = $page->now() - $page->size($variant);
        $worse = Parts::said([
            $variant->readWorkNs > $page->usual->readWorkNs * 1.05
                ? 'Unpacking takes '.
                    \Fulcrion\Core\Text\Quantity::digits($variant->readWorkNs / max(1.0, $page->usual->readWorkNs)).
                    ' times as long as now.'
                : '',
            $variant->writeNs > $page->usual->writeNs * 1.05
                ? 'Writing takes '.
                    \Fulcrion\Core\Text\Quantity::digits($variant->writeNs / max(1.0, $page->usual->writeNs)).
                    ' times as long as now.'
                : '',
        ]);
        $change = $changes->propose(
            $cluster,
            null,
            new Proposal(
                $run->object,
                "Write {$run->object} {$variant->label()}".
                    (($data['older'] ?? 0) > 0 ? ", what is older than {$data['older']} days" : ''),
                TableChangeKind::Maintain->value,
                [$sql],
                Inverse::version(),
                0.0,
                max(0.0, $saved),
                $estate->reads($table)->rewriteUs($table->bytes()),
                (float) $table->bytes() * $table->rowFactor,
                $worse,
                ChosenStatements::byLoad($estate->workload, $run->object),
            ),
            $user,
        );

        return redirect(address('change.show', $change->id))->with('done',
            'The change is proposed. Nothing was touched; rehearse it next.');
    }
}
