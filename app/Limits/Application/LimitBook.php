<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Estate\Teams\TeamDirectory;
use App\Platform\Support\Clock;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Limits\Sender;
use Fulcrion\Core\Usage\TeamBook;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Limits people set.
 */
final readonly class LimitBook
{
    /** Who belongs to which team is read again after so long. */
    private const TEAMS_SECONDS = 60;

    public function __construct(private TeamDirectory $teams)
    {
    }

    /**
     * @param  list<string>|null  $teams that whoever looks may see; null for all
     * @return list<KeptLimit> in force first, by whose they are
     */
    public function all(?array $teams = null): array
    {
        $rows = DB::table('limits')
            ->when($teams !== null, static fn (Builder $query) => $query->where('kind', ScopeKind::Team->value)->whereIn('name', $teams))
            ->orderByRaw("FIELD(state, 'on', 'tried', 'off')")
            ->orderBy('kind')
            ->orderBy('name')
            ->orderBy('id')
            ->get();

        return array_values(array_map(KeptLimit::read(...), $rows->all()));
    }

    public function find(int $id): ?KeptLimit
    {
        $row = DB::table('limits')->where('id', $id)->first();

        return $row === null ? null : KeptLimit::read($row);
    }

    /**
     * @return list<KeptLimit> in force, of which somebody's statements are counted
     */
    public function of(Sender $sender): array
    {
        $names = [];
        $hasTeams = false;
        foreach (ScopeKind::cases() as $kind) {
            if ($kind->of($sender) !== '') {
                $names[] = [$kind->value, $kind->of($sender)];
            }
        }
        $rows = DB::select(
            "SELECT * FROM limits WHERE state = 'on' AND (kind = 'team'".str_repeat(' OR (kind = ? AND name = ?)', count($names)).
                ') ORDER BY id',
            array_merge([], ...$names),
        );
        foreach ($rows as $row) {
            $hasTeams = $hasTeams || $row->kind === ScopeKind::Team->value;
        }
        // Only where some team has a limit it matters whose team somebody is in.
        $sender = $hasTeams && $sender->team === '' ? $sender->of($this->team($sender->login)) : $sender;
        $limits = array_map(static fn (stdClass $row): KeptLimit => KeptLimit::read($row), $rows);

        return array_values(array_filter($limits, static fn (KeptLimit $one): bool => $one->limit->covers($sender)));
    }

    /** The team somebody is in now, the one facts of usage are counted for. */
    public function team(string $login): string
    {
        return $this->members()[mb_strtolower($login)][1] ?? TeamBook::UNASSIGNED;
    }

    /**
     * @return array<string, array{string, string}> login as it is written and team, by login in small letters; of those in a team now
     */
    public function members(): array
    {
        return Cache::remember('members-of-teams', self::TEAMS_SECONDS, function (): array {
            $all = $this->teams->memberships();
            $book = new TeamBook($all);
            $now = Clock::seconds();
            $teams = [];
            foreach ($all as $one) {
                $teams[mb_strtolower($one->login)] = [$one->login, $book->on($one->login, $now + 1)];
            }

            return array_filter($teams, static fn (array $one): bool => $one[1] !== TeamBook::UNASSIGNED);
        });
    }

    public function add(Limit $limit, string $currency, ?string $recipient, ?int $watcherId, string $ask, string $by): int
    {
        return DB::table('limits')->insertGetId([
            'measure' => $limit->measure->value,
            'kind' => $limit->kind->value,
            'name' => $limit->name,
            'period' => $limit->period->value,
            'currency' => $currency,
            'state' => LimitState::Tried->value,
            'made_by' => $by,
            'made_us' => Clock::microseconds(),
            ...self::changeable($limit, $recipient, $watcherId, $ask),
        ]);
    }

    /** Another amount, or other acts: what is counted stays counted. */
    public function change(int $id, Limit $limit, ?string $recipient, ?int $watcherId, string $ask): void
    {
        DB::table('limits')->where('id', $id)->update(self::changeable($limit, $recipient, $watcherId, $ask));
    }

    /**
     * @return array<string, mixed>
     */
    private static function changeable(Limit $limit, ?string $recipient, ?int $watcherId, string $ask): array
    {
        $thresholds = [];
        foreach ($limit->thresholds as $threshold) {
            $thresholds[$threshold->percent] = $threshold->act->value;
        }

        return [
            'amount' => $limit->amount,
            'thresholds' => json_encode((object) $thresholds, JSON_THROW_ON_ERROR),
            'holds_at' => $limit->holdsAt(),
            'recipient' => $recipient,
            'watcher_id' => $watcherId,
            'ask' => $ask,
            'changed_us' => Clock::microseconds(),
        ];
    }

    public function switch(int $id, LimitState $state): void
    {
        DB::table('limits')->where('id', $id)->update(['state' => $state->value, 'lifted_until_us' => 0,
            'changed_us' => Clock::microseconds()]);
        $this->endLifts($id);
    }

    public function remove(int $id): void
    {
        DB::table('limits')->where('id', $id)->delete();
    }

    /** Lets statements pass until a moment, whatever is used. */
    public function lift(int $id, int $untilUs, string $reason, string $by): void
    {
        DB::transaction(function () use ($id, $untilUs, $reason, $by): void {
            $this->endLifts($id);
            DB::table('limits')->where('id', $id)->update(['lifted_until_us' => $untilUs]);
            DB::table('limit_lifts')->insert([
                'limit_id' => $id, 'made_by' => $by, 'reason' => $reason, 'at_us' => Clock::microseconds(), 'until_us' => $untilUs,
            ]);
        });
    }

    /** Sets a hold again before the time of its lifting is over. */
    public function endLift(int $id): void
    {
        DB::transaction(function () use ($id): void {
            DB::table('limits')->where('id', $id)->update(['lifted_until_us' => 0]);
            $this->endLifts($id);
        });
    }

    private function endLifts(int $id): void
    {
        $now = Clock::microseconds();
        DB::table('limit_lifts')->where('limit_id', $id)->whereNull('ended_us')->where('until_us', '>', $now)->update(['ended_us' => $now]);
    }
}
