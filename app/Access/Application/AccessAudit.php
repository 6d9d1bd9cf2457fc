<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Ledger\Models\Finding;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\Vocabulary;
use Fulcrion\Core\Access\Review\Detection;
use Fulcrion\Core\Access\Review\Remark;
use Fulcrion\Core\Access\Review\Review;

/**
 * Looks the policy in force through and keeps the findings of Guard in step.
 */
final readonly class AccessAudit
{
    public const SOURCE = 'access';

    /** Label of the evidence that says what would fix a finding. */
    private const REMEDY = 'would fix it';

    public function __construct(
        private PolicyStore $store,
        private AccessHistory $history,
        private Detections $detections,
        private Findings $findings,
    ) {
    }

    /**
     * @return array{new: int, solved: int, open: int}
     */
    public function run(bool $detectAgain = false): array
    {
        $sum = ['new' => 0, 'solved' => 0, 'open' => 0];
        if ($this->store->number() === 0) {
            return $sum;
        }
        $policy = $this->store->compile($this->store->published());
        $byCluster = [];
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::productionFirst()->get()->all();
        $slugs = array_map(static fn (Cluster $cluster): string => $cluster->slug, $clusters);
        foreach ($this->remarks($policy, $detectAgain) as $remark) {
            // What is of no cluster is told with the first.
            $slug = explode('.', $remark->at, 2)[0];
            $byCluster[in_array($slug, $slugs, true) ? $slug : $slugs[0] ?? ''][] = self::reported($remark);
        }
        foreach ($clusters as $cluster) {
            $one = $this->findings->reconcile($cluster, self::SOURCE, $byCluster[$cluster->slug] ?? []);
            foreach ($sum as $key => $value) {
                $sum[$key] = $value + $one[$key];
            }
        }

        return $sum;
    }

    /**
     * @return list<Remark>
     */
    public function remarks(Policy $policy, bool $detectAgain = false): array
    {
        $remarks = (new Review($policy, $this->history->usage(), AccessHistory::DAYS))->remarks();
        foreach ($this->detections->all($detectAgain) as $path => $detection) {
            $lines = array_column($policy->labelLines($path), 0);
            $known = array_filter($lines, static fn (string $key): bool =>
                $key === 'personal' || str_starts_with($key, 'personal/')) !== [];
            $rejected =
                array_filter(
                    $policy->document->all(Kind::Labels),
                    static fn (Item $label): bool => $label->text('on') === $path && $label->text('state') === 'rejected',
                ) !== [];
            if ($known || $rejected) {
                continue;
            }
            $remarks[] = new Remark(
                'unlabelled-personal',
                $path,
                true,
                "{$path} looks like {$detection->kind} and carries no label.",
                ['found' => $detection->evidence()],
                self::labels($policy, $path, $detection, 'accepted'),
                at: $path,
            );
        }

        return $remarks;
    }

    /**
     * The labels a detection asks for. Rules ask for the key above as well: a telephone number is personal.
     *
     * @return list<Item>
     */
    public static function labels(Policy $policy, string $path, Detection $detection, string $state): array
    {
        $top = (string) strtok($detection->key, '/');
        $above =
            $state === 'accepted' && $top !== $detection->key && $policy->document->find(Kind::Vocabulary, $top) !== null ? [$top] : [];
        $items = array_map(static fn (string $key): ?Item => self::label($policy, $path, $key, $detection->evidence(), $state), [
            $detection->key,
            ...$above,
        ]);

        return array_values(array_filter($items, static fn (?Item $item): bool => $item !== null));
    }

    private static function label(Policy $policy, string $path, string $key, string $evidence, string $state): ?Item
    {
        $values = $policy->document->find(Kind::Vocabulary, $key)?->texts('values') ?? [];
        $item = Item::of(Kind::Labels, Vocabulary::labelName($path, $key), [
            'on' => $path,
            'key' => $key,
            'value' => $values[0] ?? 'yes',
            'origin' => 'detected',
            'state' => $state,
            'evidence' => $evidence,
        ]);

        return $item instanceof Item ? $item : null;
    }

    /**
     * @return list<string> what would fix a finding; empty where a person has to decide
     */
    public static function remedies(Finding $finding): array
    {
        return Evidence::values($finding->evidence, EvidenceKind::Remedy);
    }

    private static function reported(Remark $remark): Reported
    {
        $evidence = [];
        foreach ($remark->evidence as $label => $value) {
            $evidence[] = new Evidence($label, $value);
        }
        foreach ($remark->remove as [$kind, $name]) {
            $evidence[] = new Evidence(self::REMEDY, "take {$kind->one()} {$name} out", EvidenceKind::Remedy);
        }
        foreach ($remark->put as $item) {
            $without = $item->kind === Kind::Labels ? '' : ' without them';
            $evidence[] = new Evidence(self::REMEDY, "{$item->kind->one()} {$item->name}{$without}", EvidenceKind::Remedy);
        }

        return new Reported(
            $remark->check,
            FindingSubject::item(mb_strcut($remark->object, 0, 300)),
            Severity::of($remark->act),
            $remark->problem,
            $evidence,
            Weight::none(),
            'access',
        );
    }

    /**
     * The remarks findings were made of, by check and object, of the policy in force.
     *
     * @return array<string, Remark>
     */
    public function current(): array
    {
        $current = [];
        foreach ($this->remarks($this->store->compile($this->store->published())) as $remark) {
            $current["{$remark->check} ".mb_strcut($remark->object, 0, 300)] = $remark;
        }

        return $current;
    }
}
