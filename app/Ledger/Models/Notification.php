<?php

declare(strict_types=1);

namespace App\Ledger\Models;

use App\Platform\Models\User;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * @property int $id
 * @property int $watcher_id
 * @property int|null $finding_id
 * @property string $kind mail or webhook
 * @property string $recipient
 * @property string $subject
 * @property string $body
 * @property string $state waiting, sending, sent, kept where nothing can be sent, failed, held or digested
 * @property string|null $error
 * @property int $tries
 * @property string|null $ability what somebody must be allowed to read it; null where everybody may
 * @property int|null $retry_us when it is tried again
 * @property int $made_us
 * @property int|null $sent_us
 */
final class Notification extends Model
{
    public $timestamps = false;

    protected $table = 'notifications';

    protected $guarded = ['id'];

    /**
     * Those somebody may read.
     *
     * @return Builder<self>
     */
    public static function readableBy(User $user): Builder
    {
        $query = self::query();
        $abilities = self::query()->toBase()->whereNotNull('ability')->distinct()->pluck('ability')->all();
        $held = array_values(array_filter($abilities, static fn (mixed $one): bool => $user->can((string) $one)));
        $query->where(static fn (Builder $q) => $q->whereNull('ability')->orWhereIn('ability', $held));

        return $query;
    }

    /**
     * @return list<stdClass> id, name, type and bytes of what goes with it
     */
    public function files(): array
    {
        return array_values(
            DB::table('notification_files')
                ->where('notification_id', $this->id)
                ->orderBy('id')
                ->get(['id', 'name', 'type', DB::raw('LENGTH(content) AS bytes')])
                ->all(),
        );
    }
}
