<?php

declare(strict_types=1);

namespace App\Alerts\Http\Requests;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form sends to AlertController::store() and update(); the condition itself is read by AlertDraft.
 */
final class SaveAlertRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['required', 'string', Rule::exists(Cluster::class, 'slug')->whereNull('deleted_at')],
            'name' => ['required', 'string', 'max:120'],
            'signal' => ['required', 'string', 'max:200'],
            'urgent' => ['nullable', 'boolean'],
            'second_minutes' => ['nullable', 'integer', 'between:1,1440', 'required_with:second_user'],
            'second_user' => ['nullable', 'integer', Rule::exists(User::class, 'id')->whereNull('disabled_at'),
                'required_with:second_minutes'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'cluster.*' => 'Choose a cluster.',
            'name.*' => 'Give it a name of 120 characters at most: it is the first thing people read of it.',
            'signal.*' => 'Choose what is watched.',
            'second_minutes.required_with' => 'Say after how many minutes somebody else is told.',
            'second_minutes.*' => 'Somebody else is told after 1 to 1440 minutes.',
            'second_user.*' => 'Choose who is told when nobody takes the incident.',
        ];
    }
}
