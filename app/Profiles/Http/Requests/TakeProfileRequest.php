<?php

declare(strict_types=1);

namespace App\Profiles\Http\Requests;

use App\Estate\Models\Cluster;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form sends to ProfileController::take().
 */
final class TakeProfileRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        $isPractice = Cluster::query()->where('slug', (string) $this->string('cluster'))->value('connector') === 'practice';

        return [
            'name' => ['required', 'string', 'max:120'],
            'cluster' => ['required', 'string', Rule::exists(Cluster::class, 'slug')->whereNull('deleted_at')
                ->whereIn('connector', ['mariadb', 'practice'])],
            'seconds' => [Rule::excludeIf($isPractice), 'nullable', 'integer', 'between:1,60'],
            'sql' => [Rule::requiredIf($isPractice), 'nullable', 'string', 'max:20000'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'name.*' => 'Give the profile a name.',
            'cluster.*' => 'Choose a cluster.',
            'seconds.*' => 'Sessions are looked at for 1 to 60 seconds.',
            'sql.*' => 'Write the statement whose time is asked about.',
        ];
    }
}
